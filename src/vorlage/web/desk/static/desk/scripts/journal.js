// A journal in the browser beside the draft on the server: what was typed and has not reached the server is still there
// when the page is gone, and is offered when the desk is opened again.
import { on } from "../../design/scripts/delegate.js";
import { leaf } from "./leaf.js";

const desk = document.getElementById("desk");
const person = document.getElementById("signed-out")?.dataset.person;
const PREFIX = `desk ${person} `;
const WAIT = 200;
// later than anything that the page itself has sent
const LATEST = 1_000_000;
let written = 0;
let sent = 0;
let timer = 0;

function own() {
  return `${PREFIX}${desk.elements.key.value} ${leaf}`;
}

/** The fields of a form as pairs; what cannot be kept, such as a chosen file, is passed over. */
export function pairs(form) {
  return [...new FormData(form)].filter(([, value]) => typeof value === "string");
}

function write() {
  const [key, title] = [desk.elements.key.value, desk.elements.title.value];
  const entry = { leaf, key, at: Date.now(), title, pairs: pairs(desk) };
  try {
    localStorage.setItem(own(), JSON.stringify(entry));
  } catch {
    // there is no room: the draft on the server is all there is
  }
}

function forget(key) {
  clearTimeout(timer);
  localStorage.removeItem(key);
}

/** Something was typed: it is written down in a moment. */
export function noteTyping() {
  written += 1;
  clearTimeout(timer);
  timer = setTimeout(write, WAIT);
}

if (desk) {
  on("input", "#desk .fields", noteTyping);
  window.addEventListener("pagehide", () => {
    if (written > sent) write();
  });
  document.addEventListener("htmx:configRequest", (event) => {
    if (event.detail.elt === desk) event.detail.parameters.written = written;
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    const { elt, successful, requestConfig } = event.detail;
    if (elt !== desk || !successful) return;
    sent = Math.max(sent, Number(requestConfig.parameters.written));
    // the server has all that was typed
    if (sent === written && document.getElementById("state").dataset.kept) forget(own());
  });
  document.body.addEventListener("kept", () => {
    sent = written;
    forget(own());
  });
  offer();
}

function entries() {
  const keys = Array.from({ length: localStorage.length }, (_, k) => localStorage.key(k));
  const known = keys.filter((key) => key?.startsWith(PREFIX));
  return known.map((key) => [key, JSON.parse(localStorage.getItem(key))]).filter(([, entry]) => entry.leaf !== leaf);
}

function isNew(entry) {
  return !entry.pairs.some(([name, value]) => name === "question" && value);
}

/** What was typed on another page of this question, or of a new one, and never arrived. */
function offer() {
  const here = desk.elements.question.value;
  const found = entries().find(([, entry]) => entry.key === desk.elements.key.value || (!here && isNew(entry)));
  if (!found) return;
  const [key, { at, title }] = found;
  const note = document.getElementById("journal-note");
  const when = new Date(at).toLocaleString(document.documentElement.lang, { dateStyle: "medium", timeStyle: "short" });
  note.querySelector("span").textContent =
    `What you typed on ${when}${title ? ` in “${title}”` : ""} did not reach the server.`;
  note.dataset.key = key;
  note.hidden = false;
}

on("click", "[data-take-up]", async () => {
  const note = document.getElementById("journal-note");
  const { key } = note.dataset;
  const entry = JSON.parse(localStorage.getItem(key));
  const body = new FormData();
  for (const [name, value] of entry.pairs) body.append(name, value);
  for (const [name, value] of [
    ["csrfmiddlewaretoken", desk.elements.csrfmiddlewaretoken.value],
    ["touched", "1"],
    // it becomes a draft beside what is typed on this page
    ["leaf", entry.leaf],
    ["stroke", LATEST],
  ]) {
    body.set(name, value);
  }
  try {
    const answer = await fetch(desk.getAttribute("hx-post"), { method: "POST", body });
    if (!answer.ok) return;
    forget(key);
    const address = isNew(entry) ? `${note.dataset.new}?draft=${entry.key}` : window.location.pathname;
    window.location.assign(address);
  } catch {
    // it stays in the browser, and can be taken up later
  }
});

on("click", "[data-throw-away]", () => {
  const note = document.getElementById("journal-note");
  forget(note.dataset.key);
  note.hidden = true;
});
