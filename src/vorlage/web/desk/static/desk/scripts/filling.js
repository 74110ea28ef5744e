// What the server, a warning or the formula book wants to stand in inputs is put there.
import { on } from "../../design/scripts/delegate.js";
import { changed } from "./renew.js";
import { removed } from "./undo.js";

/** Put values into inputs by their names, and open what is folded around them; the inputs. */
export function put(fields) {
  const filled = [];
  for (const [name, value] of Object.entries(fields ?? {})) {
    const input = document.getElementsByName(name)[0];
    if (!input) continue;
    if (input.type === "checkbox") input.checked = value === "on";
    else input.value = value;
    const folded = input.closest("details");
    if (folded) folded.open = true;
    filled.push(input);
  }
  return filled;
}

/** As `put`, and the preview is asked for where anything changed. */
export function fill(fields) {
  const filled = put(fields);
  if (filled.length) changed();
  return filled;
}

on("click", "[data-fields]", (button) => {
  const [first] = fill(JSON.parse(button.dataset.fields));
  if ("focus" in button.dataset && first) first.focus();
  if ("goes" in button.dataset) button.remove();
});

// a kept rubric is taken into its field
on("change", "[data-rubric]", (list) => {
  if (!list.value) return;
  const field = document.getElementById(list.dataset.rubric);
  const before = field.value;
  field.value = list.value;
  list.value = "";
  if (before.trim()) {
    removed("The rubric that stood there is replaced.", () => {
      field.value = before;
      changed();
    });
  }
  changed();
});
