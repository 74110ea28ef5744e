// Places on the number line of the ruler, which is 1000 wide with the key in its middle and 20 of margin on each side.
const MIDDLE = 500;
const MARGIN = 20;
const WIDTH = 1040;

/** How far from the key a place in the window is, in units of the answer. */
export function distanceAt(box, x, scale) {
  const place = ((x - box.left) / box.width) * WIDTH - MARGIN;
  return Math.abs(place - MIDDLE) / scale;
}

/** How far from the key an edge is after one step: a tenth more outwards, a tenth less inwards. */
export function wider(place, scale, rightwards) {
  const distance = Math.abs(place - MIDDLE) / scale;
  return distance * (rightwards === place >= MIDDLE ? 1.1 : 1 / 1.1);
}
