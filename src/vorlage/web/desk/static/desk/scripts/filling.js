// What the server, a warning or the formula book wants to stand in inputs is put there.
import { on } from "../../design/scripts/delegate.js";
import { changed } from "./renew.js";
import { made } from "./rows.js";
import { removed } from "./undo.js";

function unfold(input) {
  const folded = input.closest("details");
  if (folded) folded.open = true;
}

/** Put values into inputs by their names, and open what is folded around them; the inputs. */
export function put(fields) {
  const filled = [];
  for (const [name, value] of Object.entries(fields ?? {})) {
    const input = document.getElementsByName(name)[0];
    if (!input) continue;
    if (input.type === "checkbox") input.checked = value === "on";
    else input.value = value;
    unfold(input);
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

/** What a tool of the server has done: inputs and new rows; the preview is asked for where anything changed. */
export function carryOut(done) {
  if (!done) return;
  const filled = put(done.fields);
  for (const { list, cells } of done.rows) {
    const row = made(document.getElementById(list), cells);
    unfold(row);
    filled.push(row);
  }
  if (filled.length) changed();
}

on("click", "[data-fields]", (button) => {
  const [first] = fill(JSON.parse(button.dataset.fields));
  if ("focus" in button.dataset && first) first.focus();
  if ("goes" in button.dataset) button.remove();
});

// a kept rubric is taken in the place of what stands there
on("change", "[data-rubric]", (choice) => {
  if (!choice.value) return;
  const list = document.getElementById(choice.dataset.rubric);
  const before = [...list.children];
  const fresh = JSON.parse(choice.value);
  choice.value = "";
  for (const row of before) row.remove();
  const rows = fresh.map((cells) => made(list, cells));
  if (before.length) {
    removed("The rubric that stood there is replaced.", () => {
      for (const row of rows) row.remove();
      list.append(...before);
      changed();
    });
  }
  changed();
});
