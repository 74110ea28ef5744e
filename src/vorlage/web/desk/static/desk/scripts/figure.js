// The coordinates of a figure, and the shapes of its regions in them.

/** What a figure on the page says of itself: its frame, where that lies in the drawing, and how wide the drawing is. */
export function layoutOf(figure) {
  return {
    frame: figure.dataset.frame.split(" ").map(Number),
    place: figure.dataset.place.split(" ").map(Number),
    width: figure.viewBox.baseVal.width,
  };
}

/**
 * Where in the coordinates of a figure a place in the window lies. `frame` is left, right, bottom and top; `layout` how
 * far the frame is from the left and the top of the drawing, and the lengths of a unit; `width` that of the drawing.
 */
export function coordinates([left, , , top], [beside, head, across, up], box, width, { clientX, clientY }) {
  const zoom = width / box.width;
  const x = left + ((clientX - box.left) * zoom - beside) / across;
  const y = top - ((clientY - box.top) * zoom - head) / up;
  return [x, y];
}

/** The place in the drawing of a place in the coordinates of its figure. */
export function drawnAt([left, , , top], [beside, head, across, up], [x, y]) {
  return [beside + (x - left) * across, head + (top - y) * up];
}

/** The corners of a region from the numbers in its line; of a circle its middle. */
export function corners(word, numbers) {
  if (word === "circle") return [numbers.slice(0, 2)];
  if (word === "box") {
    const [a, b, c, d] = numbers;
    return [
      [a, b],
      [c, b],
      [c, d],
      [a, d],
    ];
  }
  return numbers.flatMap((x, k) => (k % 2 ? [] : [[x, numbers[k + 1]]]));
}

/** Where a region is taken to resize it: the place, and which of its numbers follow to the right and up. */
export function grips(word, numbers) {
  if (word === "circle") return [{ at: [numbers[0] + numbers[2], numbers[1]], across: 2, up: -1 }];
  const which =
    word === "box"
      ? [
          [0, 1],
          [2, 1],
          [2, 3],
          [0, 3],
        ]
      : corners(word, numbers).map((_, k) => [2 * k, 2 * k + 1]);
  return which.map(([across, up]) => ({ at: [numbers[across], numbers[up]], across, up }));
}

/** By how much each number changes when all of a region is moved. */
export function moves(word, numbers, dx, dy) {
  const places = word === "circle" ? 2 : numbers.length;
  return Object.fromEntries(numbers.slice(0, places).map((_, k) => [k, k % 2 ? dy : dx]));
}

/** The numbers after a change. */
export function changedBy(numbers, shifts) {
  return numbers.map((each, k) => each + (shifts[k] ?? 0));
}
