// A tool of the server is told what was done by hand, and says which inputs change.
import { reached } from "../../design/scripts/network.js";
import { signedOut } from "../../design/scripts/session.js";

const turns = new Map();

/** What a tool changes: inputs by their names, and new rows; null when a newer question is on its way, or nobody answers. */
export async function ask(tool, done) {
  const desk = document.getElementById("desk");
  const sent = new FormData(desk);
  for (const [name, value] of Object.entries(done)) sent.set(`tool-${name}`, value);
  const turn = (turns.get(tool) ?? 0) + 1;
  turns.set(tool, turn);
  try {
    const answer = await fetch(desk.dataset.tools.replace("/tool/", `/${tool}/`), { method: "POST", body: sent });
    if (answer.status === 401 || answer.status === 403) signedOut(() => {});
    if (!answer.ok) return null;
    const found = await answer.json();
    if (turns.get(tool) !== turn) return null;
    // what was typed meanwhile counts
    const now = new FormData(desk);
    const typed = Object.keys(found.fields).some((name) => now.get(name) !== sent.get(name));
    return typed ? ask(tool, done) : found;
  } catch {
    reached(false);
    return null;
  }
}
