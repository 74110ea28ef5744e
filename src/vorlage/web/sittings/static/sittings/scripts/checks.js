// Checking a question before all is handed in: what came of it, further tries, and a similar one instead.

/** Locks a part on which nothing more can be earned, or opens it again. */
function settle(part, settled) {
  part.toggleAttribute("data-settled", settled);
  for (const each of part.querySelectorAll("input, textarea, select, [data-move], [data-hint]"))
    if (settled) each.disabled = true;
}

/** Shows how a question stands, as the server says it; the markup in it is the server's own. */
function show(page, { q, parts, said, open, words, similar }) {
  const box = page.querySelector(`.checking[data-question="${q}"]`);
  if (!box) return;
  const article = box.closest("article");
  for (const place of article.querySelectorAll("[data-came]")) {
    const part = place.closest("[data-part]");
    const came = parts[part.dataset.part];
    if (came) {
      place.innerHTML = came.html;
      settle(part, came.settled);
    }
    if (said[part.dataset.part]) place.textContent = said[part.dataset.part];
  }
  box.querySelector("[data-check-question]").hidden = !open;
  box.querySelector("[data-tries]").textContent = words;
  const another = box.querySelector("[data-similar]");
  another.hidden = !similar;
  another.textContent = similar;
}

/**
 * Lets questions of a page be checked. `flush` sends what is not sent yet and says whether it was; `ask` asks the
 * server; `take` takes what it says of the page; `reload` shows a question that has come to it.
 */
export function checkable(page, states, { flush, ask, take, reload }) {
  for (const state of states) show(page, state);
  // what came of an answer is not said of another one
  page.addEventListener("input", (event) =>
    event.target.closest("[data-part]")?.querySelector("[data-came]")?.replaceChildren(),
  );
  page.addEventListener("click", async (event) => {
    const button = event.target.closest("[data-check-question], [data-similar]");
    if (!button) return;
    const box = button.closest(".checking");
    const told = box.querySelector("[role=status]");
    const q = Number(box.dataset.question);
    const similar = "similar" in button.dataset;
    button.disabled = true;
    told.textContent = "";
    try {
      if (!(await flush())) throw new Error("not sent");
      const answer = await ask(similar ? page.dataset.similarAt : page.dataset.checkAt, { q });
      for (const state of answer.checked ?? []) show(page, state);
      if (answer.similar) return reload(q);
      if (answer.stop && !answer.checked) told.textContent = STOPPED[answer.stop] ?? "It could not be checked now.";
      if (answer.phase) take(answer);
    } catch {
      told.textContent = "There is no network: nothing was checked, and it was no try. Press it again when there is.";
    }
    button.disabled = false;
  });
}

const STOPPED = {
  no_draw: "There are no other numbers for this question.",
  too_many: "These are many in a minute. Look at one more closely, then go on.",
};
