// The labels of parts, as they are counted on the sheet.

const ROMAN = "i ii iii iv v vi vii viii ix x xi xii xiii xiv xv xvi xvii xviii xix xx".split(" ");

/** The label of every part; `under` says of each whether it stands under the lettered one before it. One alone has none. */
export function labelsOf(under) {
  if (under.length === 1) return [""];
  let letter = 0;
  let numeral = 0;
  return under.map((below, k) => {
    if (below && k) {
      numeral += 1;
      return `(${String.fromCharCode(96 + letter)})(${ROMAN[numeral - 1]})`;
    }
    letter += 1;
    numeral = 0;
    return `(${String.fromCharCode(96 + letter)})`;
  });
}
