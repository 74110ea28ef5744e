// The page of a student who sits: everything that is written is saved, shown as it was read, and never lost.
import { answerIn, isEmpty, isRead, putAnswer } from "./scripts/answers.js";
import { checkable } from "./scripts/checks.js";
import { Clock } from "./scripts/clock.js";
import { orderable } from "./scripts/order.js";
import { Outbox } from "./scripts/outbox.js";
import { pointable } from "./scripts/places.js";
import { showReading } from "./scripts/reading.js";
import { offerSigns } from "./scripts/signs.js";

const READ_AFTER = 120;
const SAVE_AFTER = 1000;
const ASK_EVERY = 10_000;

const page = document.getElementById("work");
const data = JSON.parse(document.getElementById("sitting-data").textContent);
const parts = [...page.querySelectorAll("[data-part]")];
// what is asked, and not the working beside it
const askedParts = parts.filter((part) => !("unasked" in part.dataset));
const articles = [...page.querySelectorAll("article[data-position]")];
const links = [...document.querySelectorAll("#numbers a")];
const saved = document.getElementById("saved");
const one = Boolean(page.dataset.one);
const mayGoBack = Boolean(page.dataset.back);
let phase = data.state.phase;
let reachable = true;
let resting = data.resting;
let leaving = false;

async function ask(address, sent) {
  const answer = await fetch(address, {
    method: sent ? "POST" : "GET",
    headers: { "X-Sitting": data.token, "Content-Type": "application/json" },
    body: sent && JSON.stringify(sent),
    keepalive: Boolean(sent) && JSON.stringify(sent).length < 30_000,
    cache: "no-store",
  });
  if (answer.status >= 500) throw new Error(`status ${answer.status}`);
  return answer.json();
}

// what is saved, and what is not sent yet

function showSaved() {
  const count = outbox.count;
  saved.textContent = count === 0 ? "saved" : reachable ? "saving …" : `${count} not sent yet`;
  saved.classList.toggle("is-waiting", count > 0 && !reachable);
}

function told(answer) {
  reachable = answer !== null;
  if (answer) {
    showReadings(answer.readings ?? []);
    take(answer);
  }
  showSaved();
}

const outbox = new Outbox({
  // what was written on another form is not for this one
  taking: `${data.taking}-${data.form}`,
  tab: data.tab,
  send: (changes) => ask(page.dataset.save, { changes }),
  told,
});

// how an answer was read

function partOf(q, p) {
  return parts.find((part) => Number(part.dataset.question) === q && part.dataset.part === p);
}

function showReadings(readings) {
  for (const { q, p, read } of readings) {
    const part = partOf(q, p);
    if (part) showReading(part, read);
  }
}

const reading = new Map();

function readSoon(part) {
  clearTimeout(reading.get(part));
  reading.set(
    part,
    setTimeout(async () => {
      const asked = answerIn(part);
      if (isEmpty(asked)) return part.querySelector(".read-as")?.replaceChildren();
      try {
        const answer = await ask(page.dataset.read, {
          q: Number(part.dataset.question),
          p: part.dataset.part,
          r: asked,
        });
        // what was typed meanwhile is read anew
        if (JSON.stringify(answerIn(part)) === JSON.stringify(asked)) showReadings(answer.readings ?? []);
      } catch {
        // it is read when it is saved
      }
    }, READ_AFTER),
  );
}

// answering

function changed(part, after = 0) {
  if (phase !== "working" && phase !== "over") return;
  outbox.put(Number(part.dataset.question), part.dataset.part, answerIn(part), after);
  showSaved();
  showStates();
}

page.addEventListener("input", (event) => {
  const part = event.target.closest("[data-part]");
  if (!part) return;
  if (isRead(part) && !("unasked" in part.dataset)) readSoon(part);
  changed(part, isRead(part) ? SAVE_AFTER : 0);
});
page.addEventListener("focusout", (event) => {
  const part = event.target.closest("[data-part]");
  if (part && isRead(part) && outbox.count) outbox.later(0);
});

orderable(page, changed);

offerSigns(page);
page.addEventListener("focusin", (event) => {
  for (const link of links) link.removeAttribute("aria-current");
  const article = event.target.closest("article[data-position]");
  if (article) links[articles.indexOf(article)].setAttribute("aria-current", "true");
});

// the strip of numbers

// by where their answers are: a similar question comes between others
const flagged = new Set(JSON.parse(sessionStorage.getItem(`again-${data.taking}`) ?? "[]"));
const flagOf = (article) => Number(article.dataset.position);

function showStates() {
  let done = 0;
  for (const [k, article] of articles.entries()) {
    const own = askedParts.filter((part) => article.contains(part));
    const filled = own.filter((part) => !isEmpty(answerIn(part))).length;
    const answered = own.length > 0 && filled === own.length;
    const state = flagged.has(flagOf(article))
      ? "to look at again"
      : answered
        ? "answered"
        : filled
          ? "begun"
          : "empty";
    done += answered;
    links[k].dataset.now = state;
    links[k].querySelector("[data-state]").textContent = `, ${state}`;
  }
  document.getElementById("how-far").textContent = `${done} of ${articles.length}`;
}

for (const article of articles) {
  const box = article.querySelector("[data-again]");
  box.checked = flagged.has(flagOf(article));
  box.addEventListener("change", () => {
    box.checked ? flagged.add(flagOf(article)) : flagged.delete(flagOf(article));
    sessionStorage.setItem(`again-${data.taking}`, JSON.stringify([...flagged]));
    showStates();
  });
}
const strip = document.getElementById("numbers");
document.getElementById("open-strip").addEventListener("click", (event) => {
  strip.hidden = !strip.hidden;
  event.currentTarget.setAttribute("aria-expanded", String(!strip.hidden));
});

// one question, or one section, at a time

const groups = articles.map((article) => Number(article.dataset.group));
const last = Math.max(...groups);
let current = Number(sessionStorage.getItem(`at-${data.taking}`) ?? 0);
let asked = -1;
const back = document.getElementById("step-back");
const on = document.getElementById("step-on");

function showGroup(group, focus = true) {
  current = Math.max(0, Math.min(group, last));
  sessionStorage.setItem(`at-${data.taking}`, String(current));
  for (const each of page.querySelectorAll("[data-group]")) each.hidden = Number(each.dataset.group) !== current;
  back.hidden = current === 0 || !mayGoBack;
  on.hidden = current === last;
  for (const [number, link] of links.entries()) {
    link.toggleAttribute("data-past", !mayGoBack && groups[number] < current);
    link.toggleAttribute("aria-disabled", !mayGoBack && groups[number] !== current);
  }
  if (focus) articles[groups.indexOf(current)].focus();
}

/** The questions that are shown and in which something is empty, by their numbers. */
function emptyHere() {
  return articles.flatMap((article, k) => {
    const own = askedParts.filter((part) => article.contains(part));
    const empty = own.some((part) => isEmpty(answerIn(part)));
    return (!one || groups[k] === current) && empty ? [article.dataset.called] : [];
  });
}

/** Says once what stays empty where there is no way back; whether it was said now. */
function saidEmpty(step, button) {
  const empty = emptyHere();
  if (!empty.length || asked === step) return false;
  asked = step;
  const which = empty.length === 1 ? `Question ${empty[0]} is` : `Questions ${empty.join(", ")} are`;
  stopped(`${which} empty, and there is no way back. Press ${button} once more to go on.`);
  return true;
}

if (one) {
  page.classList.add("is-one");
  showGroup(current, false);
  back.addEventListener("click", () => showGroup(current - 1));
  on.addEventListener("click", () => {
    if (!mayGoBack && saidEmpty(current, "Next")) return;
    stopped("");
    outbox.flush();
    showGroup(current + 1);
  });
  strip.addEventListener("click", (event) => {
    const link = event.target.closest("a[data-number]");
    if (!link) return;
    const group = groups[links.indexOf(link)];
    if (group === current) return;
    event.preventDefault();
    if (!mayGoBack) return;
    showGroup(group, false);
    articles[links.indexOf(link)].focus();
  });
}

// time, notes, and whether it goes on here

const notice = document.getElementById("stopped");

function stopped(text, action = null) {
  notice.hidden = !text;
  notice.replaceChildren(text);
  if (action) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "btn btn-plain";
    button.textContent = action.words;
    button.addEventListener("click", action.does);
    notice.append(" ", button);
  }
  if (text) notice.scrollIntoView({ block: "nearest" });
}

function lock(locked) {
  for (const each of page.querySelectorAll("input, textarea, select, [data-move]"))
    each.disabled = locked || each.closest("[data-settled]") !== null;
}

const clock = new Clock({
  show: (text) => {
    document.getElementById("time-left").textContent = text;
  },
  warn: (text) => {
    document.getElementById("warning").textContent = text;
    document.getElementById("clock").classList.add("is-near");
  },
  up: async () => {
    await outbox.flush();
    setTimeout(askNow, 300);
  },
});
document.getElementById("clock").addEventListener("click", (event) => {
  const covered = event.currentTarget.classList.toggle("is-covered");
  event.currentTarget.setAttribute("aria-pressed", String(covered));
});

function goTo(address) {
  leaving = true;
  location.assign(address);
}

/** What the server says of this page. */
function take(answer) {
  if ("left" in answer) clock.set(answer.left, answer.phase === "working");
  if (answer.phase && answer.phase !== phase) {
    phase = answer.phase;
    const words = {
      paused: resting ? "" : "Your teacher has paused the clock. You can go on when it runs again.",
      only_hand_in: "Time is up. What was saved counts: hand in now.",
      over: "Time is up. You may go on; the minutes over are noted.",
      time_up: "Time is up. It is being handed in.",
    }[phase];
    stopped(words ?? "");
    lock(phase !== "working" && phase !== "over");
  }
  if (answer.stop === "handed_in" && !leaving) goTo(page.dataset.done);
  else if ("section" in answer && answer.section !== data.state.section && !leaving) {
    leaving = true;
    location.reload();
  }
  const words = {
    elsewhere: "You went on in another window or on another device. Nothing is lost.",
    token: "This page was open for too long. Nothing is lost.",
    another_form: "Your teacher has given you another form. What you wrote here is kept and does not count any more.",
  }[answer.stop];
  if (words) {
    lock(true);
    phase = "elsewhere";
    stopped(words, { words: "Go on here", does: () => location.reload() });
  }
}

let shownNotes = document.querySelectorAll("#notes .note").length;

function showNotes(notes) {
  for (const { text, question, at } of notes.slice(shownNotes)) {
    const line = document.createElement("p");
    line.className = "note";
    if (question) {
      const which = document.createElement("strong");
      which.textContent = `Question ${question}: `;
      line.append(which);
    }
    const when = document.createElement("span");
    when.className = "quiet";
    when.textContent = ` ${at}`;
    line.append(text, when);
    document.getElementById("notes").append(line);
    line.scrollIntoView({ block: "nearest" });
  }
  shownNotes = Math.max(shownNotes, notes.length);
}

let hiddenSince = 0;
let asking = null;

async function askNow(away = 0) {
  clearTimeout(asking);
  try {
    const answer = await ask(page.dataset.changes + (away ? `?away=${Math.round(away)}` : ""));
    const back = !reachable;
    reachable = true;
    showNotes(answer.notes ?? []);
    take(answer);
    if (back) await outbox.flush();
  } catch {
    reachable = false;
  }
  showSaved();
  if (reachable && wantsToHandIn && outbox.count === 0) return handInLate();
  asking = setTimeout(askNow, phase === "working" || phase === "paused" ? ASK_EVERY : 3000);
}

document.addEventListener("visibilitychange", () => {
  if (document.hidden) {
    hiddenSince = performance.now();
    outbox.flush();
  } else if (hiddenSince) askNow((performance.now() - hiddenSince) / 1000);
});
window.addEventListener("online", () => askNow());
window.addEventListener("pagehide", () => outbox.flush());

// hints, questions to the teacher, and breaks

function showHints(hints) {
  for (const part of page.querySelectorAll(".answer")) {
    const list = part.querySelector(".hints-taken");
    const own = hints.filter(({ q, p }) => q === Number(part.dataset.question) && p === part.dataset.part);
    if (!list || own.length <= list.children.length) continue;
    list.replaceChildren(
      ...own.map(({ text }) => {
        const line = document.createElement("li");
        line.innerHTML = text;
        return line;
      }),
    );
    for (const button of part.querySelectorAll("[data-hint]"))
      button.hidden = Number(button.dataset.hint) !== own.length;
  }
}

page.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-hint]");
  if (!button) return;
  const part = button.closest("[data-part]");
  button.disabled = true;
  try {
    const sent = { n: Number(button.dataset.hint), q: Number(part.dataset.question), p: part.dataset.part };
    const answer = await ask(page.dataset.hintAt, sent);
    showHints(answer.hints ?? []);
    take(answer);
  } catch {
    reachable = false;
    showSaved();
  }
  button.disabled = false;
});

page.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-ask]");
  if (!button) return;
  const about = button.closest(".ask-about");
  const field = about.querySelector("textarea");
  const told = about.querySelector("[role=status]");
  if (!field.value.trim()) return;
  try {
    const answer = await ask(page.dataset.askAt, { q: Number(about.dataset.question), p: "asked", r: field.value });
    told.textContent = answer.asked ? "Sent. An answer appears at the top of this page." : "It could not be sent.";
    if (answer.asked) field.value = "";
  } catch {
    told.textContent = "There is no network: send it again when there is.";
  }
});

document.getElementById("break")?.addEventListener("click", async () => {
  const begins = phase !== "paused";
  try {
    await outbox.flush();
    resting = begins;
    take(await ask(page.dataset.breakAt, { begins }));
    showBreak();
  } catch {
    reachable = false;
    showSaved();
  }
});

function showBreak() {
  const button = document.getElementById("break");
  if (!button) return;
  const rests = phase === "paused" && resting;
  button.textContent = rests ? "Go on" : "Take a break";
  button.setAttribute("aria-pressed", String(rests));
  if (rests) stopped("You take a break: the clock stands still. Press Go on when you are ready.");
}

// handing in

let wantsToHandIn = false;

function goOn() {
  wantsToHandIn = false;
  stopped("");
}

async function handInLate() {
  const answer = await ask(page.dataset.late, {});
  if (answer.receipt) goTo(page.dataset.done);
  else if (answer.lacking) goTo(page.dataset.check);
  else take(answer);
}

for (const link of [document.getElementById("to-hand-in"), page.querySelector("[data-hand-in]")]) {
  link?.addEventListener("click", async (event) => {
    event.preventDefault();
    if (await outbox.flush()) return goTo(page.dataset.check);
    wantsToHandIn = true;
    stopped(
      `There is no network: ${outbox.count} answer${outbox.count === 1 ? " is" : "s are"} not sent yet. They wait here, and it is ` +
        "handed in as soon as there is. Leave this page open.",
      { words: "Go on working", does: goOn },
    );
  });
}

// on to the next section: what is not sent yet goes first

document.getElementById("go-on")?.addEventListener("submit", async (event) => {
  event.preventDefault();
  if (saidEmpty("section", "Go on")) return;
  if (await outbox.flush()) return event.target.submit();
  stopped(`There is no network: ${outbox.count} answers are not sent yet. Go on when there is.`);
});

// what was checked

checkable(page, data.checked, {
  flush: () => outbox.flush(),
  ask,
  take,
  reload: (q) => {
    leaving = true;
    sessionStorage.setItem(`once-more-${data.taking}`, String(q));
    location.reload();
  },
});

// what is there already

for (const { q, p, r } of data.answers) {
  const part = partOf(q, p);
  if (part) putAnswer(part, r);
}
for (const { q, p, r } of outbox.earlier) {
  const part = partOf(q, p);
  if (part) putAnswer(part, r);
}
for (const part of parts) if (part.dataset.shape === "places") pointable(part, changed);
showReadings(data.readings);
showHints(data.hints);
take(data.state);
lock(phase !== "working" && phase !== "over");
showStates();
showSaved();
showBreak();
for (const each of page.querySelectorAll(".working")) each.open = each.querySelector("textarea").value !== "";
outbox.flush();
asking = setTimeout(askNow, ASK_EVERY);
if (location.hash) {
  const target = document.querySelector(CSS.escape(location.hash.slice(1)) ? location.hash : "#work");
  const at = articles.findIndex((article) => article.contains(target));
  if (one && at >= 0 && mayGoBack) showGroup(groups[at], false);
  target?.querySelector("[data-answer], input, select")?.focus();
}
// a similar question has come: it stands behind the one that it was asked for at
const missed = sessionStorage.getItem(`once-more-${data.taking}`);
if (missed !== null) {
  sessionStorage.removeItem(`once-more-${data.taking}`);
  const at = articles.findIndex((article) => article.dataset.position === missed) + 1;
  if (articles[at]) {
    if (one) showGroup(groups[at], false);
    articles[at].focus();
    articles[at].scrollIntoView({ block: "start" });
  }
}
document.documentElement.dataset.ready = "1";
