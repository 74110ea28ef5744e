// What stands in the places for answers, as it is sent, and put back there.

const TYPED = new Set(["line", "line in text", "ruled"]);

function pieces(part) {
  return [...part.querySelectorAll("[data-piece]")].sort((a, b) => a.dataset.piece - b.dataset.piece);
}

function typedField(part) {
  return part.querySelector("[data-answer], [data-piece]");
}

/** Whether an answer is read while it is typed. */
export function isRead(part) {
  return TYPED.has(part.dataset.shape) || part.dataset.shape === "gaps";
}

/** The order that a list is in, by its letters. */
function orderOf(part) {
  return [...part.querySelectorAll("[data-letter]")].map((item) => item.dataset.letter);
}

/** What stands in the place for an answer. */
export function answerIn(part) {
  const { shape } = part.dataset;
  if (TYPED.has(shape)) return typedField(part).value;
  if (shape === "gaps") return pieces(part).map((field) => field.value);
  if (shape === "pairs") {
    const chosen = [...part.querySelectorAll("[data-left]")].filter((field) => field.value);
    return Object.fromEntries(chosen.map((field) => [field.dataset.left, field.value]));
  }
  if (shape === "items") return part.querySelector("[data-ordered]").checked ? orderOf(part).join(", ") : "";
  if (shape === "places") return JSON.parse(part.dataset.marked ?? "[]");
  const ticked = [...part.querySelectorAll("input:checked")].map((field) => field.value);
  return part.querySelector("input[type=checkbox]") ? ticked : (ticked[0] ?? "");
}

/** Puts an answer into its place. */
export function putAnswer(part, answer) {
  const { shape } = part.dataset;
  if (answer === null || answer === undefined) return;
  if (TYPED.has(shape)) typedField(part).value = answer;
  else if (shape === "gaps") {
    const given = Array.isArray(answer) ? answer : [answer];
    for (const [k, field] of pieces(part).entries()) field.value = given[k] ?? "";
  } else if (shape === "pairs") {
    for (const field of part.querySelectorAll("[data-left]")) field.value = answer[field.dataset.left] ?? "";
  } else if (shape === "items") {
    const list = part.querySelector(".to-order");
    const letters = String(answer).split(", ").filter(Boolean);
    for (const letter of letters) list.append(list.querySelector(`[data-letter="${CSS.escape(letter)}"]`));
    part.querySelector("[data-ordered]").checked = letters.length > 0;
  } else if (shape === "places") part.dataset.marked = JSON.stringify(answer);
  else {
    const ticked = new Set([answer].flat().map(String));
    for (const field of part.querySelectorAll("input")) field.checked = ticked.has(field.value);
  }
}

/** Whether nothing stands in an answer. */
export function isEmpty(answer) {
  if (answer === null || answer === undefined) return true;
  if (typeof answer === "object") return Object.values(answer).every(isEmpty);
  return String(answer).trim() === "";
}
