// What is seen, in one choice: fills the rows below it, which can then be changed.
const how = document.getElementById("seen-how");
const when = document.getElementById("seen-when");

/** The moment that is chosen, or the next one where a row has none such: a total is not seen after each answer. */
function soonest(row) {
  return [...row.options].some(({ value }) => value === when.value) ? when.value : row.options[0].value;
}

function fill() {
  if (!how.value) return;
  const rows = new Set(how.value === "nothing" ? [] : how.value.split(" "));
  for (const row of document.querySelectorAll("select[name^=seen_]"))
    row.value = rows.has(row.name.slice("seen_".length)) ? soonest(row) : "never";
  // the sentence is told anew
  how.form.querySelector("select[name^=seen_]").dispatchEvent(new Event("change", { bubbles: true }));
}

for (const each of [how, when]) each.addEventListener("change", fill);
