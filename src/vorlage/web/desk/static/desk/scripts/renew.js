// All that is computed on the desk is asked for anew.
import { touch } from "../../design/scripts/leaving.js";
import { noteTyping } from "./journal.js";

/** Ask for the preview of the fields as they stand. */
export function renew() {
  const desk = document.getElementById("desk");
  if (desk) window.htmx.trigger(desk, "renew");
}

/** Something was changed by a script: it is unsaved, and the preview is asked for. */
export function changed() {
  touch();
  noteTyping();
  renew();
}

document.addEventListener("reachable", renew);
