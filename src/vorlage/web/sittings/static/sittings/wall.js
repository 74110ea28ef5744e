// A question large for the class: keys press the buttons, and the timer runs.
const SECOND = 1000;

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || isTypedIn(event.target)) return;
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const button = document.querySelector(`.wall-keys [data-key="${CSS.escape(key)}"]:not(:disabled)`);
  if (!button) return;
  event.preventDefault();
  button.click();
});

/** Whether a key belongs to a field. */
function isTypedIn(target) {
  return target instanceof Element && target.matches("input");
}

let ends = null;

/** Takes the time that is left from the page, as the server said it. */
function take() {
  const left = document.getElementById("wall").dataset.left;
  ends = left === "" ? null : performance.now() + Number(left) * SECOND;
  show();
}

function show() {
  const timer = document.getElementById("wall-timer");
  if (ends === null) return;
  const left = Math.max(0, Math.round((ends - performance.now()) / SECOND));
  timer.textContent = left ? `${Math.floor(left / 60)}:${String(left % 60).padStart(2, "0")}` : "Time is up";
  timer.classList.toggle("is-near", left <= 10);
}

document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "wall" || event.detail.elt?.id === "wall") take();
});
setInterval(show, SECOND / 2);
take();
document.documentElement.dataset.ready = "1";
