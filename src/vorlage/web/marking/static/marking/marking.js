// Marking by keys: figures give marks or choose levels, Enter gives them; what is typed is kept meanwhile.

const form = document.getElementById("give");
const marks = document.getElementById("marks");
const comment = document.getElementById("comment");
const criteria = [...form.querySelectorAll("[data-criterion]")];
// where a level is chosen next
let at = Math.max(
  0,
  criteria.findIndex((each) => !each.querySelector(":checked")),
);

function point() {
  criteria.forEach((each, k) => {
    each.classList.toggle("is-next", k === at);
  });
}
point();

function typedMarks(text) {
  marks.value = text;
  keep();
}

function half() {
  const now = Number(marks.value.replace(",", ".")) || 0;
  typedMarks(String(now + 0.5));
}

/** Chooses the level of the criterion whose turn it is that has so many marks, else the one at that place. */
function level(figure) {
  const levels = [...criteria[at].querySelectorAll("input")];
  const found = levels.find((each) => each.dataset.marks === figure) ?? levels[Number(figure)];
  if (!found) return;
  found.checked = true;
  at = Math.min(at + 1, criteria.length);
  point();
  keep();
}

let waiting;
function keep() {
  clearTimeout(waiting);
  waiting = setTimeout(() => {
    const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
    fetch(form.dataset.typed, {
      method: "POST",
      body: new URLSearchParams(new FormData(form)),
      headers: { "X-CSRFToken": token },
      keepalive: true,
    }).catch(() => {});
  }, 300);
}
form.addEventListener("input", keep);
form.addEventListener("submit", () => clearTimeout(waiting));

form.addEventListener("click", (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  if (button.dataset.give) typedMarks(button.dataset.give);
  if ("half" in button.dataset) half();
  if (button.dataset.say) {
    comment.value = [comment.value.trim(), button.dataset.say].filter(Boolean).join(" ");
    keep();
  }
});

const every = document.getElementById("tick-all");
every?.addEventListener("change", () => {
  for (const each of form.querySelectorAll("[name=cell]")) each.checked = every.checked;
});

function writing(element) {
  return element.matches("textarea, select, input:not([type=checkbox], [type=radio])");
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "Escape" && writing(event.target)) event.target.blur();
  if (event.key === "Enter" && event.target === comment && event.shiftKey === false) {
    event.preventDefault();
    document.getElementById("give-it").click();
    return;
  }
  if (writing(event.target) || event.target.closest("dialog")) return;
  if (/^[0-9]$/.test(event.key)) {
    if (criteria.length && at < criteria.length) level(event.key);
    else typedMarks(event.key);
    event.preventDefault();
    return;
  }
  const key = event.key.toLowerCase();
  if (key === "h") half();
  if (key === "n") document.getElementById("next")?.click();
  if (key === "b") document.getElementById("back")?.click();
  if (key === "c") {
    comment.focus();
    event.preventDefault();
  }
  if (event.key === "Enter" && !event.target.closest("a, button, summary")) document.getElementById("give-it").click();
});
document.documentElement.dataset.ready = "1";
