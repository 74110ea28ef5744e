// What is being pressed stays where it is until it is released: whatever goes away under the pointer takes the press
// along.
let pressed = false;
const waiting = new Set();

document.addEventListener(
  "pointerdown",
  () => {
    pressed = true;
  },
  true,
);
for (const end of ["pointerup", "pointercancel"])
  document.addEventListener(
    end,
    () => {
      pressed = false;
      setTimeout(() => {
        for (const does of waiting) does();
        waiting.clear();
      });
    },
    true,
  );

/** Does something now, or once what is pressed has been released and the press has done its work. */
export function whenReleased(does) {
  if (pressed) waiting.add(does);
  else does();
}
