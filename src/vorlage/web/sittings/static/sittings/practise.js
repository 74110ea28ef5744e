// One question to practise with: answers are read while they are typed, and sent when they are to be checked.
import { answerIn, isRead, putAnswer } from "./scripts/answers.js";
import { orderable } from "./scripts/order.js";
import { pointable } from "./scripts/places.js";
import { showReading } from "./scripts/reading.js";
import { offerSigns } from "./scripts/signs.js";

const READ_AFTER = 120;
const form = document.getElementById("practise");
const data = JSON.parse(document.getElementById("practice-data").textContent);
const parts = [...form.querySelectorAll("[data-part]")];
const reading = new Map();

function readSoon(part) {
  clearTimeout(reading.get(part));
  const asked = answerIn(part);
  reading.set(
    part,
    setTimeout(async () => {
      try {
        const answer = await fetch(form.dataset.read, {
          method: "POST",
          headers: { "X-CSRFToken": form.elements.csrfmiddlewaretoken.value, "Content-Type": "application/json" },
          body: JSON.stringify({ p: part.dataset.part, r: asked }),
        });
        const { read } = await answer.json();
        if (JSON.stringify(answerIn(part)) === JSON.stringify(asked)) showReading(part, read);
      } catch {
        // it is read when it is checked
      }
    }, READ_AFTER),
  );
}

for (const part of parts) {
  putAnswer(part, data.answers[part.dataset.part]);
  if (part.dataset.shape === "places") pointable(part, () => {});
}
for (const [id, read] of Object.entries(data.readings)) {
  const part = parts.find((each) => each.dataset.part === id);
  if (part) showReading(part, read);
}
orderable(form, () => {});
offerSigns(form);
form.addEventListener("input", (event) => {
  const part = event.target.closest("[data-part]");
  if (part && isRead(part)) readSoon(part);
});
form.addEventListener("submit", () => {
  const answers = Object.fromEntries(parts.map((part) => [part.dataset.part, answerIn(part)]));
  form.elements.answers.value = JSON.stringify(answers);
});
if (data.told)
  for (const each of form.querySelectorAll("[data-part] :is(input, textarea, select, [data-move])"))
    each.disabled = true;
document.documentElement.dataset.ready = "1";
