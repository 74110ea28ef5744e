// Small conveniences of the interface. No rule of the subject lives here.

// whether something was typed on the desk and not sent
let touched = false;
function touch() {
  touched = true;
  const field = document.getElementById("touched");
  if (field) { field.value = "1"; }
}

document.addEventListener("alpine:init", () => {
  // something that opens and closes: the menu on a phone, the person's leaf
  window.Alpine.data("fold", () => ({
    open: false,
    toggle() { this.open = !this.open; },
    close() { this.open = false; },
    get openClass() { return this.open ? "is-open" : ""; },
    get expanded() { return this.open ? "true" : "false"; },
  }));
  // the button says how many forms it makes
  window.Alpine.data("amount", () => ({
    count: "",
    init() { this.count = this.$el.querySelector("input[type=number]").value; },
    choose(event) { this.count = event.target.value; },
    get noun() { return this.count === "1" ? "form" : "forms"; },
  }));
});

// a part shows what its kind of answer needs; what was typed for another kind waits
document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-kind-choice]")) { return; }
  const part = event.target.closest(".part-fields");
  part.dataset.kind = event.target.value;
  part.querySelector("[data-key]").placeholder = event.target.selectedOptions[0].dataset.hint;
});

// a kept rubric is taken into the field
document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-rubric]") || !event.target.value) { return; }
  const field = document.getElementById(event.target.dataset.rubric);
  field.value = event.target.value;
  event.target.value = "";
  touch();
});

// so does a gap
document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-gap-kind]")) { return; }
  const row = event.target.closest(".gap-row");
  const hints = event.target.selectedOptions[0].dataset;
  row.dataset.gap = event.target.value;
  row.querySelector("[name$=-key]").placeholder = hints.keyHint;
  row.querySelector("[name$=-more]").placeholder = hints.moreHint;
});
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-under]")) { event.target.closest(".part-fields").classList.toggle("is-under", event.target.checked); }
});

function typing(target) {
  return target.matches("input, textarea, select, [contenteditable]");
}

// "?" shows the keys
document.addEventListener("keydown", (event) => {
  const keys = document.getElementById("keys");
  if (event.key === "?" && keys && !keys.open && !typing(event.target)) { event.preventDefault(); keys.showModal(); }
});

// Maths fields: signs to insert, and names and functions that complete what is being typed
const FUNCTIONS = ["sqrt()", "root(3, )", "abs()", "sin()", "cos()", "tan()", "ln()", "log_2()", "exp()", "max(, )", "min(, )", "round(, )", "gcd(, )",
  "binomial(, )", "expand()", "factor()", "diff(, x)", "integral(, x)", "solve(, x)", "mean()", "median()", "stdev()", "value()", "one of ", "row of ",
  "normal(, )", "uniform(, )", "shuffle of ", "except ", "step ", "vec(, )", "matrix(, ; , )"];
let mathsField = null;
function insert(field, text, from, caret) {
  field.setRangeText(text, from, field.selectionEnd, "end");
  if (caret >= 0) { field.selectionStart = from + caret; field.selectionEnd = from + caret; }
  field.focus();
  field.dispatchEvent(new Event("input", { bubbles: true }));
}
function names() {
  return [...document.querySelectorAll("[data-cell=name]")].map((field) => field.value.trim()).filter(Boolean);
}
function suggest(field) {
  const list = document.getElementById("suggestions");
  const word = /[A-Za-z_][A-Za-z0-9_.]*$/.exec(field.value.slice(0, field.selectionStart));
  const found = word && word[0].length > 1 ? [...names(), ...FUNCTIONS].filter((each) => each.startsWith(word[0]) && each !== word[0]).slice(0, 6) : [];
  list.hidden = !found.length;
  list.replaceChildren(...found.map((each) => {
    const button = document.createElement("button");
    button.type = "button";
    button.textContent = each;
    button.dataset.complete = word[0].length;
    button.tabIndex = -1;
    return button;
  }));
}
document.addEventListener("focusin", (event) => {
  const bar = document.getElementById("palette");
  if (!bar) { return; }
  if (event.target.matches("[data-maths]")) { mathsField = event.target; bar.hidden = false; }
  else if (!bar.contains(event.target)) { mathsField = null; bar.hidden = true; }
});
document.addEventListener("input", (event) => { if (event.target === mathsField) { suggest(mathsField); } });
document.addEventListener("keydown", (event) => {
  const list = document.getElementById("suggestions");
  if (!list || list.hidden || event.target !== mathsField) { return; }
  if (event.key === "Tab" && !event.shiftKey) { event.preventDefault(); list.firstElementChild.click(); }
  if (event.key === "Escape") { list.hidden = true; }
});
document.addEventListener("mousedown", (event) => { if (event.target.closest("#palette")) { event.preventDefault(); } });
document.addEventListener("click", (event) => {
  const button = event.target.closest("#palette button");
  if (!button || !mathsField) { return; }
  const text = button.dataset.insert || button.textContent;
  const from = mathsField.selectionStart - Number(button.dataset.complete || 0);
  const inside = text.search(/[(,]/) + 1;
  insert(mathsField, text, from, text.endsWith(")") ? inside : -1);
  document.getElementById("suggestions").hidden = true;
});

// "/" goes to the jump field
document.addEventListener("keydown", (event) => {
  if (event.key === "/" && !typing(event.target) && !event.ctrlKey && !event.metaKey) {
    const jump = document.getElementById("jump");
    if (jump) { event.preventDefault(); jump.focus(); }
  }
  if (event.key === "Escape" && event.target.id === "jump") {
    event.target.value = "";
    document.getElementById("jump-results").replaceChildren();
  }
});

// Rows of the desk: a cross takes a row away; Enter goes to the next row and makes one at the end.
function renew() {
  const desk = document.getElementById("desk");
  if (desk) { window.htmx.trigger(desk, "renew"); }
}

document.addEventListener("click", (event) => {
  const cross = event.target.closest("[data-drop]");
  if (!cross) { return; }
  const row = cross.closest("[data-row]");
  const neighbour = row.nextElementSibling || row.previousElementSibling;
  row.remove();
  const field = neighbour && neighbour.querySelector("input, textarea");
  if (field) { field.focus(); }
  renew();
});

document.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || event.isComposing) { return; }
  const field = event.target;
  if (!field.matches || !field.matches("input[data-cell]")) {
    // Enter in a field of the desk never sends the form by accident
    if (field.matches && field.matches("#desk input:not([type=submit])")) { event.preventDefault(); renew(); }
    return;
  }
  event.preventDefault();
  const row = field.closest("[data-row]");
  const next = row.nextElementSibling;
  if (next && next.matches("[data-row]")) {
    const same = next.querySelector(`[data-cell="${field.dataset.cell}"]`);
    if (same) { same.focus(); }
  } else {
    document.getElementById(row.parentElement.dataset.adder).click();
  }
});

// A new row is ready to be typed into
document.addEventListener("htmx:afterSettle", (event) => {
  const asked = event.detail.requestConfig && event.detail.requestConfig.elt;
  const list = event.detail.target;
  if (asked && asked.matches && asked.matches("[data-cure]")) { renew(); return; }
  if (!asked || !list || !list.dataset || list.dataset.adder !== asked.id) { return; }
  const field = list.lastElementChild.querySelector("input:not([type=hidden]), textarea");
  if (field) { field.focus(); }
});

// The draw table: sorted by a column, longer, or gone to a draw that stands out
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-sort], [data-more], [data-go], [data-close-survey]");
  if (!button) { return; }
  if (button.matches("[data-close-survey]")) { document.getElementById("survey").replaceChildren(); return; }
  if (button.matches("[data-sort]")) {
    const sort = document.getElementById("sort");
    sort.value = sort.value === button.dataset.sort && button.dataset.sort ? `-${button.dataset.sort}` : button.dataset.sort;
  } else if (button.matches("[data-more]")) {
    const rows = document.getElementById("rows");
    rows.value = Number(rows.value) + 8;
  } else {
    document.getElementById("go").value = button.dataset.go;
  }
  renew();
});
// a draw that is chosen by hand is not gone to any more
document.addEventListener("change", (event) => {
  if (event.target.matches("input[name=draw]")) { document.getElementById("go").value = ""; }
}, true);

// a draw is pinned, so that no later change breaks it
document.addEventListener("click", (event) => {
  const pin = event.target.closest("[data-pin], [data-unpin]");
  if (!pin) { return; }
  const pins = document.getElementById("pins");
  if (pin.dataset.unpin) {
    pins.querySelectorAll("[data-pinned]")[Number(pin.dataset.unpin) - 1].remove();
  } else {
    const uid = Math.random().toString(16).slice(2, 10);
    const kept = document.createElement("span");
    kept.dataset.pinned = "";
    [["pin", uid], [`pin-${uid}`, pin.dataset.pin]].forEach(([name, value]) => {
      const field = document.createElement("input");
      field.type = "hidden";
      field.name = name;
      field.value = value;
      kept.append(field);
    });
    pins.append(kept);
  }
  touch();
  renew();
});

// Alt and D copies a row of the desk below itself, under names of its own
document.addEventListener("keydown", (event) => {
  if (!event.altKey || event.key.toLowerCase() !== "d") { return; }
  const row = event.target.closest("#desk .cells[data-row], #desk .condition-row, #desk .option-row");
  if (!row) { return; }
  event.preventDefault();
  const copy = row.cloneNode(true);
  const old = row.querySelector("input[type=hidden]").value;
  const fresh = Math.random().toString(16).slice(2, 10);
  copy.querySelectorAll("[name], [id], [aria-describedby]").forEach((each) => {
    ["name", "id", "aria-describedby"].forEach((kind) => {
      if (each.hasAttribute(kind)) { each.setAttribute(kind, each.getAttribute(kind).replace(old, fresh)); }
    });
  });
  const marker = copy.querySelector("input[type=hidden]");
  marker.value = fresh;
  row.after(copy);
  copy.querySelector("input:not([type=hidden])").focus();
  renew();
});

// A parameter that is renamed can be renamed wherever it is used
function whole(name) { return new RegExp(`(?<![A-Za-z0-9_.])${name.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")}(?![A-Za-z0-9_])`, "g"); }
function users(name) {
  const lines = [...document.querySelectorAll("#desk [data-maths]:not(#try), #desk .mono")].filter((field) => whole(name).test(field.value));
  const texts = [...document.querySelectorAll("#desk textarea:not(.mono)")].filter((field) => [...field.value.matchAll(/\$[^$]+\$/g)].some((span) => whole(name).test(span[0])));
  return { lines, texts };
}
document.addEventListener("focusin", (event) => {
  if (event.target.matches("#parameters [data-cell=name]")) { event.target.dataset.was = event.target.value.trim(); }
});
document.addEventListener("change", (event) => {
  const field = event.target;
  if (!field.matches("#parameters [data-cell=name]")) { return; }
  const was = field.dataset.was, now = field.value.trim();
  if (!was || !now || was === now) { return; }
  const { lines, texts } = users(was);
  if (!lines.length && !texts.length) { return; }
  const button = document.createElement("button");
  button.type = "button";
  button.className = "btn btn-quiet rename";
  button.textContent = `Rename ${was} to ${now} in ${lines.length + texts.length} other field${lines.length + texts.length === 1 ? "" : "s"}`;
  button.addEventListener("click", () => {
    lines.forEach((each) => { each.value = each.value.replace(whole(was), now); });
    texts.forEach((each) => { each.value = each.value.replace(/\$[^$]+\$/g, (span) => span.replace(whole(was), now)); });
    button.remove();
    touch();
    renew();
  });
  field.closest("[data-row]").after(button);
});

// The ruler: an edge that is dragged, or moved with the arrow keys, changes the tolerance of its part
let edge = null;
function tolerate(svg, distance) {
  const key = Math.abs(Number(svg.dataset.key));
  const part = document.querySelectorAll("#parts .part-fields")[Number(svg.dataset.part)];
  const field = part && part.querySelector("[name$='-tolerance']");
  if (!field) { return; }
  const relative = svg.dataset.drags === "relative";
  const size = relative ? (100 * distance) / (key || 1) : distance;
  const text = String(Number(Math.max(size, 0).toPrecision(2)));
  field.value = relative ? `${text}%` : text;
}
function atPointer(svg, event) {
  const box = svg.getBoundingClientRect();
  const x = ((event.clientX - box.left) / box.width) * 1040 - 20;
  return Math.abs(x - 500) / Number(svg.dataset.scale);
}
document.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest("[data-edge]");
  if (!handle) { return; }
  edge = handle.closest("[data-ruler]");
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => { if (edge) { tolerate(edge, atPointer(edge, event)); } });
document.addEventListener("pointerup", () => { if (edge) { edge = null; touch(); renew(); } });
document.addEventListener("keydown", (event) => {
  const handle = event.target.closest && event.target.closest("[data-edge]");
  if (!handle || !["ArrowLeft", "ArrowRight"].includes(event.key)) { return; }
  event.preventDefault();
  const svg = handle.closest("[data-ruler]");
  const place = Number(handle.getAttribute("aria-valuenow"));
  const outwards = (event.key === "ArrowRight") === (place >= 500);
  const distance = Math.abs(place - 500) / Number(svg.dataset.scale);
  tolerate(svg, distance * (outwards ? 1.1 : 1 / 1.1));
  touch();
  document.body.dataset.focusEdge = place >= 500 ? "1" : "0";
  renew();
});
document.addEventListener("htmx:afterSettle", () => {
  const which = document.body.dataset.focusEdge;
  if (which === undefined) { return; }
  const handle = document.querySelectorAll("[data-edge]")[Number(which)];
  if (handle) { delete document.body.dataset.focusEdge; handle.focus(); }
});

// Alt and the arrow keys move a row of the desk among its neighbours
document.addEventListener("keydown", (event) => {
  if (!event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key)) { return; }
  const row = event.target.closest("#desk [data-row]");
  if (!row || event.target.matches("select")) { return; }
  const other = event.key === "ArrowUp" ? row.previousElementSibling : row.nextElementSibling;
  event.preventDefault();
  if (!other || !other.matches("[data-row]")) { return; }
  if (event.key === "ArrowUp") { other.before(row); } else { other.after(row); }
  event.target.focus();
  renew();
});

// Ctrl+S (or Command+S) saves what stands on the desk
document.addEventListener("keydown", (event) => {
  if ((event.ctrlKey || event.metaKey) && event.key === "s" && document.getElementById("save")) {
    event.preventDefault();
    document.getElementById("save").click();
  }
});

// Leaving with unsaved work is asked about first
document.addEventListener("input", (event) => {
  if (event.target.closest(".fields")) { touch(); }
});
document.addEventListener("submit", () => { touched = false; });
window.addEventListener("beforeunload", (event) => {
  if (touched || document.querySelector("[data-unsaved]")) { event.preventDefault(); }
});
document.addEventListener("submit", () => {
  document.querySelectorAll("[data-unsaved]").forEach((marked) => marked.removeAttribute("data-unsaved"));
});

// The plan of a test: lines are dragged, or moved with Alt and the arrow keys.
let dragged = null;
document.addEventListener("dragstart", (event) => {
  dragged = event.target.closest("[data-place]");
  if (dragged) { dragged.classList.add("is-dragged"); event.dataTransfer.effectAllowed = "move"; }
});
document.addEventListener("dragover", (event) => {
  const over = dragged && event.target.closest("[data-place]");
  if (!over) { return; }
  event.preventDefault();
  const half = over.getBoundingClientRect().top + over.offsetHeight / 2;
  if (over !== dragged) { over.parentElement.insertBefore(dragged, event.clientY < half ? over : over.nextSibling); }
});
document.addEventListener("drop", (event) => { if (dragged) { event.preventDefault(); } });
document.addEventListener("dragend", () => {
  if (!dragged) { return; }
  dragged.classList.remove("is-dragged");
  const list = dragged.closest("[data-arrange]");
  dragged = null;
  window.htmx.trigger(list, "arranged");
});
document.addEventListener("keydown", (event) => {
  if (!event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key)) { return; }
  const line = event.target.closest("[data-place]");
  if (!line) { return; }
  event.preventDefault();
  const button = line.querySelector(event.key === "ArrowUp" ? "[data-up]" : "[data-down]");
  if (button && !button.disabled) {
    document.body.dataset.focusPlace = line.dataset.place;
    button.click();
  }
});
// when the new lines are ready to be used, the focus goes to the one that was moved
document.addEventListener("htmx:afterSettle", () => {
  const place = document.body.dataset.focusPlace;
  if (!place) { return; }
  delete document.body.dataset.focusPlace;
  const line = document.querySelector(`[data-place="${place}"] .entry`);
  if (line) { line.focus(); }
});

// When the server cannot be reached, say so; nothing typed is touched.
document.addEventListener("htmx:sendError", () => { document.getElementById("offline").hidden = false; });
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful) { document.getElementById("offline").hidden = true; }
});
