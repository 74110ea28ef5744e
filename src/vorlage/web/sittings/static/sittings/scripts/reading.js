// How an answer was read, shown below it: line by line where it has several pieces.

function lineOf(piece, several, k) {
  const line = document.createElement("p");
  const which = several ? `${k + 1}: ` : "";
  if (piece.problem) {
    line.className = "cannot-be-read";
    line.textContent = which + piece.problem;
  } else {
    line.append(`${which}read as `);
    const shown = document.createElement("span");
    shown.innerHTML = piece.shown;
    line.append(shown);
    if (piece.also) {
      const also = document.createElement("span");
      also.className = "also";
      also.textContent = piece.also;
      line.append(" ", also);
    }
  }
  return line;
}

/** Shows below a part how its answer was read. */
export function showReading(part, read) {
  const place = part.querySelector(".read-as");
  if (!place) return;
  const lines = read.flatMap((piece, k) => (piece.problem || piece.shown ? [lineOf(piece, read.length > 1, k)] : []));
  place.replaceChildren(...lines);
  const wrong = read.some((piece) => piece.problem);
  part.querySelector("[data-answer]")?.toggleAttribute("aria-invalid", wrong);
}
