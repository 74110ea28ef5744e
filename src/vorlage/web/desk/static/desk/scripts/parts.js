// The part that is worked on: the sheet follows it, its ruler is shown, and the others can be folded to a line.
import { on } from "../../design/scripts/delegate.js";
import { renew } from "./renew.js";

function rows() {
  return [...document.querySelectorAll("#parts > .part-fields")];
}

/** The fields of the part that is worked on; undefined before any is. */
export function activeRow() {
  const uid = document.getElementById("active")?.value;
  return rows().find((row) => row.dataset.part === uid);
}

function look(uid) {
  document.getElementById(`sheet-part-${uid}`)?.scrollIntoView({ block: "nearest" });
}

function work(uid) {
  const active = document.getElementById("active");
  look(uid);
  if (active.value === uid) return;
  active.value = uid;
  renew();
}

on("focusin", "#parts > .part-fields", (row) => work(row.dataset.part));
on("focusin", "[data-sheet-part]", (part) => {
  const active = document.getElementById("active");
  if (active.value === part.dataset.sheetPart) return;
  active.value = part.dataset.sheetPart;
  renew();
});
// what was beside the sheet's end before it was renewed is in sight again
document.addEventListener("htmx:oobAfterSwap", (event) => {
  const row = document.activeElement?.closest?.("#parts > .part-fields");
  if (event.detail.target.id === "sheet" && row) look(row.dataset.part);
});

/** What a folded part says of itself. */
export function summary({ kind, key, unit, marks }) {
  const said = [kind, [key, unit].filter(Boolean).join(" "), marks && `${marks} mark${marks === "1" ? "" : "s"}`];
  return said.filter(Boolean).join(" · ");
}

function typedIn(row, ending) {
  return row.querySelector(`[name="part-${row.dataset.part}-${ending}"]`)?.value.trim() ?? "";
}

function fold(row, folded) {
  const list = row.querySelector("select[name$=-kind]");
  const found = {
    kind: list.selectedOptions[0].textContent,
    key: typedIn(row, "key"),
    unit: typedIn(row, "after") || typedIn(row, "unit"),
    marks: typedIn(row, "marks"),
  };
  row.querySelector(".part-summary").textContent = folded ? summary(found) : "";
  row.classList.toggle("is-folded", folded);
  row.querySelector("[data-fold]").setAttribute("aria-expanded", String(!folded));
}

on("click", "[data-fold]", (button) => {
  const row = button.closest(".part-fields");
  fold(row, !row.classList.contains("is-folded"));
});
on("click", "[data-fold-all]", () => {
  const all = rows();
  const open = all.some((row) => !row.classList.contains("is-folded"));
  for (const row of all) fold(row, open);
});
// a message in a part that is folded opens it
document.addEventListener("htmx:afterSettle", () => {
  for (const row of document.querySelectorAll(".part-fields.is-folded:has(.field-error)")) fold(row, false);
});
