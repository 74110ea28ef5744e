// The draw table: sorted by a column, longer, gone to a draw that stands out, and draws that are pinned so that no
// later change breaks them.
import { on } from "../../design/scripts/delegate.js";
import { changed, renew } from "./renew.js";
import { newIdentity } from "./rows.js";
import { removed } from "./undo.js";

/** What a table is sorted by when a column is chosen that may be the one already: upwards, then downwards. */
export function sortedBy(chosen, present) {
  return present === chosen && chosen ? `-${chosen}` : chosen;
}

on("click", "[data-sort]", (button) => {
  const sort = document.getElementById("sort");
  sort.value = sortedBy(button.dataset.sort, sort.value);
  renew();
});
on("click", "[data-more]", () => {
  const rows = document.getElementById("rows");
  rows.value = Number(rows.value) + 8;
  renew();
});
on("click", "[data-go]", (button) => {
  document.getElementById("go").value = button.dataset.go;
  renew();
});
on("click", "[data-close-survey]", () => document.getElementById("survey").replaceChildren());

// a draw that is chosen by hand is not gone to any more
on(
  "change",
  "input[name=draw]",
  () => {
    document.getElementById("go").value = "";
  },
  { capture: true },
);

function hidden(name, value) {
  const field = document.createElement("input");
  field.type = "hidden";
  field.name = name;
  field.value = value;
  return field;
}

on("click", "[data-pin]", (pin) => {
  const uid = newIdentity();
  const kept = document.createElement("span");
  kept.dataset.pinned = "";
  kept.append(hidden("pin", uid), hidden(`pin-${uid}`, pin.dataset.pin));
  document.getElementById("pins").append(kept);
  changed();
});
on("click", "[data-unpin]", (pin) => {
  const kept = document.querySelectorAll("#pins [data-pinned]")[Number(pin.dataset.unpin) - 1];
  const next = kept.nextElementSibling;
  kept.remove();
  removed(`Pinned draw ${pin.dataset.unpin} is taken out.`, () => {
    document.getElementById("pins").insertBefore(kept, next?.isConnected ? next : null);
    changed();
  });
  changed();
});
