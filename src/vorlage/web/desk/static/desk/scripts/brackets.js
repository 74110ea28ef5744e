// Brackets in a line of maths, and which belong together.
const PARTNERS = { "(": ")", "[": "]", "{": "}" };
const CLOSING = Object.values(PARTNERS);

/** The place of the bracket that belongs to the one at a place; -1 where there is none. */
export function partner(text, at) {
  const step = text[at] in PARTNERS ? 1 : -1;
  let depth = 0;
  for (let k = at; k >= 0 && k < text.length; k += step) {
    if (text[k] in PARTNERS) depth += step;
    else if (CLOSING.includes(text[k])) depth -= step;
    if (depth === 0) return k;
  }
  return -1;
}

/** What is to be marked for a bracket beside the caret: [place, length, look] for it and its partner. */
export function marksAt(text, caret) {
  const at = [caret - 1, caret].find((k) => k >= 0 && "([{)]}".includes(text[k] || " "));
  if (at === undefined) return [];
  const other = partner(text, at);
  if (other < 0) return [[at, 1, "lonely"]];
  return [
    [at, 1, "bracket"],
    [other, 1, "bracket"],
  ];
}
