// A row of a gap shows what its kind of answer needs; a part stands under the letter before it, or not.
import { on } from "../../design/scripts/delegate.js";

on("change", "[data-gap-kind]", (list) => {
  const row = list.closest(".gap-row");
  const kind = list.selectedOptions[0].dataset;
  row.classList.toggle("has-unit", "unit" in kind);
  row.classList.toggle("has-more", Boolean(kind.moreHint));
  row.querySelector("[name$=-key]").placeholder = kind.keyHint;
  row.querySelector("[name$=-more]").placeholder = kind.moreHint;
});

on("change", "[data-under]", (box) => {
  box.closest(".part-fields").classList.toggle("is-under", box.checked);
});
