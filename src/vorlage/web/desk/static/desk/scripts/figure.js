// The coordinates of a figure.

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
