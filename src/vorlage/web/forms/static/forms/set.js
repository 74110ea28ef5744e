// The table of answers: S goes to the next answer that two forms share, Shift and S to the one before.
import { isTyping } from "../design/scripts/delegate.js";

document.addEventListener("keydown", (event) => {
  if (event.key.toLowerCase() !== "s" || event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target))
    return;
  const shared = [...document.querySelectorAll(".answers .shared")];
  if (!shared.length) return;
  event.preventDefault();
  const at = shared.indexOf(document.activeElement);
  const next = event.shiftKey ? (at < 0 ? shared.length - 1 : at - 1) : at + 1;
  shared.at(next % shared.length).focus();
});
