// Cells of a spreadsheet, as they are pasted.

/** Rows of cells from a pasted text; null for one that is a single cell. */
export function cellsOf(text) {
  if (!/[\t\n]/.test(text.trim())) return null;
  const lines = text.replace(/\r/g, "").replace(/\n+$/, "").split("\n");
  return lines.map((line) => line.split("\t").map((cell) => cell.trim()));
}
