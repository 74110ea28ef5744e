// Places in a field of one line: what a message means, and the bracket that belongs to the one at the caret. The field
// is set in letters of one width, so that a place is a number of letters.
import { on } from "../../design/scripts/delegate.js";
import { marksAt } from "./brackets.js";

const FIELDS = "#desk .fields input.mono, #desk .fields input[data-cell]";
const LOOKS = {
  wrong: ["var(--brick)", "100% - 3px", "2px"],
  doubtful: ["var(--ochre)", "100% - 3px", "2px"],
  bracket: ["var(--petrol-tint)", "50%", "1.35em"],
  lonely: ["var(--brick-tint)", "50%", "1.35em"],
};

function placesIn(field, message) {
  const places = [];
  // what was typed since the message came has moved the places
  if (message && field.dataset.meant === field.value) {
    const look = "mild" in message.dataset ? "doubtful" : "wrong";
    places.push([Number(message.dataset.place), Number(message.dataset.length), look]);
  }
  if (field === document.activeElement && field.selectionStart === field.selectionEnd) {
    places.push(...marksAt(field.value, field.selectionStart));
  }
  return places;
}

function mark(field) {
  const message = document.querySelector(`[data-mark="${CSS.escape(field.name)}"]`);
  const { paddingLeft } = getComputedStyle(field);
  const drawn = placesIn(field, message).map(([from, length, look]) => {
    const [colour, height, size] = LOOKS[look];
    return {
      image: `linear-gradient(${colour}, ${colour})`,
      position: `calc(${paddingLeft} + ${from}ch - ${field.scrollLeft}px) calc(${height})`,
      size: `${length}ch ${size}`,
    };
  });
  field.style.backgroundImage = drawn.map((each) => each.image).join(", ");
  field.style.backgroundPosition = drawn.map((each) => each.position).join(", ");
  field.style.backgroundSize = drawn.map((each) => each.size).join(", ");
  field.style.backgroundRepeat = "no-repeat";
  field.setAttribute("aria-invalid", message && !("mild" in message.dataset) ? "true" : "false");
}

function markAll() {
  for (const message of document.querySelectorAll("#desk .fields [data-mark]")) {
    const field = document.getElementsByName(message.dataset.mark)[0];
    if (field) field.dataset.meant = field.value;
  }
  for (const field of document.querySelectorAll(FIELDS)) mark(field);
}

markAll();
document.addEventListener("htmx:afterSettle", markAll);
document.addEventListener("selectionchange", () => {
  if (document.activeElement?.matches(FIELDS)) mark(document.activeElement);
});
on("focusout", FIELDS, (field) => requestAnimationFrame(() => mark(field)));
on("scroll", FIELDS, mark, { capture: true });
