// Signed out in another tab, or by time: the page stays, and one signs in again in place.
import { on } from "./delegate.js";

const dialog = document.getElementById("signed-out");
let waiting = [];

/** Puts the token of the present session wherever the page sends one. */
function adopt(token) {
  document.body.setAttribute("hx-headers", JSON.stringify({ "X-CSRFToken": token }));
  for (const field of document.querySelectorAll("[name=csrfmiddlewaretoken]")) field.value = token;
}

/** Who is signed in in this browser; the page takes on the session's token. */
async function session() {
  const answer = await fetch(dialog.dataset.session, { headers: { Accept: "application/json" } });
  const found = await answer.json();
  adopt(found.token);
  return found;
}

function goOn() {
  dialog.close();
  const asked = waiting;
  waiting = [];
  for (const again of asked) again();
}

/** What was sent was refused because nobody, or somebody else, is signed in; `again` is called when that is mended. */
export async function signedOut(again) {
  if (!dialog) return;
  waiting.push(again);
  if (waiting.length > 1 && dialog.open) return;
  try {
    const { person } = await session();
    if (person === Number(dialog.dataset.person)) goOn();
    else if (!dialog.open) {
      dialog.showModal();
      dialog.querySelector("[type=password]").focus();
    }
  } catch {
    // the network says so itself
  }
}

function say(words) {
  dialog.querySelector(".refused").textContent = words;
}

on("submit", "#signed-out form", async (form, event) => {
  event.preventDefault();
  event.stopPropagation();
  const sent = new FormData(form);
  const headers = { "X-Requested-With": "XMLHttpRequest" };
  try {
    // somebody may have signed in in another tab, with a second step
    let { token, person } = await session();
    let answer = null;
    if (!person) {
      headers["X-CSRFToken"] = token;
      answer = await fetch(dialog.dataset.signIn, { method: "POST", body: sent, headers });
      ({ person } = await session());
    }
    if (person === Number(dialog.dataset.person)) {
      say("");
      form.querySelector("[type=password]").value = "";
      goOn();
    } else if (person) say("This page belongs to somebody else. Sign in as whoever opened it.");
    else if (answer.ok) say("A second step is needed: sign in in another tab, then press this once more.");
    else say(answer.status === 429 ? "Too many tries. Wait a few minutes." : "This address and password do not fit.");
  } catch {
    say("The server cannot be reached. Try again in a moment.");
  }
});

on("click", "#signed-out [data-later]", () => {
  waiting = [];
  dialog.close();
});

// what was refused is asked for again once somebody is signed in, and no more than once
document.addEventListener("htmx:afterRequest", (event) => {
  const { elt, requestConfig, xhr } = event.detail;
  if (xhr.status !== 401 && xhr.status !== 403) {
    delete elt.dataset.refused;
    return;
  }
  if ("refused" in elt.dataset) return;
  elt.dataset.refused = "";
  const again = requestConfig.triggeringEvent?.type === "click" ? "click" : "renew";
  signedOut(() => window.htmx.trigger(elt, again));
});
