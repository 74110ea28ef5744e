// What could complete a word that is being typed.
const WORD = /[A-Za-z_][A-Za-z0-9_.]*$/;
const MOST = 6;

/** The word before the caret; empty where there is none. */
export function wordAt(text, caret) {
  return WORD.exec(text.slice(0, caret))?.[0] ?? "";
}

/** What begins as a word does, the names of the question first; a single letter, a name and a function are complete. */
export function completions(word, names, offered) {
  if (word.length < 2 || names.includes(word) || offered.some((each) => each.split("(")[0] === word)) return [];
  return [...names, ...offered].filter((each) => each.startsWith(word) && each !== word).slice(0, MOST);
}

/** Where in an inserted text the caret goes: to its first argument, or (-1) behind it. */
export function caretIn(text) {
  return text.endsWith(")") ? text.search(/[(,]/) + 1 : -1;
}
