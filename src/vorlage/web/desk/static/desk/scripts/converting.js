// An answer that is typed into while another kind of it is on its way is asked for anew, with what stands there now.
import { on } from "../../design/scripts/delegate.js";

on("input", "#desk .answer-fields", (answer) => {
  const kind = document.querySelector(`.htmx-request[hx-target="#${answer.id}"]`);
  if (kind) window.htmx.trigger(kind, "again");
});
