// The question desk: fields, rows, maths, the ruler and the draw table. No rule of the subject lives here.

// What this page sends is counted, under a name that it gets when it is loaded: the server tells what was overtaken
// on its way, by a save or by what was typed later.
const leaf = [...crypto.getRandomValues(new Uint8Array(8))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
let stroke = 0;
let ended = false;
document.addEventListener("DOMContentLoaded", () => {
  document.querySelectorAll("[data-leaf]").forEach((field) => { field.value = leaf; });
});
document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.elt.id !== "desk") { return; }
  // a draft that is put away is not written again
  if (ended) { event.preventDefault(); return; }
  stroke += 1;
  document.querySelectorAll("[data-stroke]").forEach((field) => { field.value = stroke; });
  event.detail.parameters.stroke = stroke;
});
document.addEventListener("submit", (event) => { if (event.target.matches("[data-ends]")) { ended = true; } });

// a kept rubric is taken into the field
document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-rubric]") || !event.target.value) { return; }
  const field = document.getElementById(event.target.dataset.rubric);
  field.value = event.target.value;
  event.target.value = "";
  touch();
});

// a gap shows what its kind of answer needs
document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-gap-kind]")) { return; }
  const row = event.target.closest(".gap-row");
  const hints = event.target.selectedOptions[0].dataset;
  row.classList.toggle("has-unit", "unit" in hints);
  row.classList.toggle("has-more", Boolean(hints.moreHint));
  row.querySelector("[name$=-key]").placeholder = hints.keyHint;
  row.querySelector("[name$=-more]").placeholder = hints.moreHint;
});
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-under]")) { event.target.closest(".part-fields").classList.toggle("is-under", event.target.checked); }
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

// A formula of the book is taken as the answer
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-fill]");
  if (!button) { return; }
  const field = document.querySelector(`[name="${button.dataset.into}"]`);
  field.value = button.dataset.fill;
  field.focus();
  renew();
});

// What a warning asks of an answer is put into the fields of its part
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-demand]");
  if (!button) { return; }
  const part = document.querySelectorAll("#parts > [data-row]")[Number(button.dataset.part)];
  const uid = part.querySelector("input[name=part]").value;
  for (const [name, value] of Object.entries(JSON.parse(button.dataset.demand))) {
    const field = part.querySelector(`[name="part-${uid}-${name}"]`);
    if (field.type === "checkbox") { field.checked = value === "on"; } else { field.value = value; }
    const folded = field.closest("details");
    if (folded) { folded.open = true; }
  }
  renew();
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
  copied(row).querySelector("input:not([type=hidden])").focus();
  renew();
});
function emptied(row) {
  row.querySelectorAll("[data-cell]").forEach((field) => { field.value = ""; });
  return row;
}
function copied(row) {
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
  copy.querySelectorAll(".row-message").forEach((message) => message.replaceChildren());
  return copy;
}

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
    // pinned draws keep their values under the new name
    document.querySelectorAll("#pins input[name^='pin-']").forEach((pin) => {
      const values = JSON.parse(pin.value);
      if (was in values) { values[now] = values[was]; delete values[was]; pin.value = JSON.stringify(values); }
    });
    button.remove();
    touch();
    renew();
  });
  field.closest("[data-row]").after(button);
});

// The ruler: an edge that is dragged, or moved with the arrow keys, changes the tolerance or the band of its part
let edge = null;
function tolerate(handle, distance) {
  const svg = handle.closest("[data-ruler]");
  const key = Math.abs(Number(svg.dataset.key));
  const part = document.querySelectorAll("#parts .part-fields")[Number(svg.dataset.part)];
  const band = handle.dataset.edge;
  const field = part && part.querySelector(band ? "[name$='-bands']" : "[name$='-tolerance']");
  if (!field) { return; }
  const relative = handle.dataset.drags === "relative";
  const size = relative ? (100 * distance) / (key || 1) : distance;
  const text = String(Number(Math.max(size, 0).toPrecision(2))) + (relative ? "%" : "");
  if (!band) { field.value = text; return; }
  const lines = field.value.split("\n");
  const used = lines.map((line, place) => [line, place]).filter(([line]) => line.trim())[Number(band)];
  if (!used) { return; }
  lines[used[1]] = [` ${text} `, ...used[0].split("|").slice(1)].join("|").trim();
  field.value = lines.join("\n");
}
function fromKey(svg, x) { return Math.abs(x - 500) / Number(svg.dataset.scale); }
function atPointer(svg, event) {
  const box = svg.getBoundingClientRect();
  return fromKey(svg, ((event.clientX - box.left) / box.width) * 1040 - 20);
}
document.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest("[data-edge]");
  if (!handle) { return; }
  edge = handle;
  event.preventDefault();
});
function settleEdge() {
  if (edge) { edge = null; touch(); renew(); }
}
document.addEventListener("pointermove", (event) => {
  // the button was let go outside the window
  if (edge && !event.buttons) { settleEdge(); }
  if (edge) { tolerate(edge, atPointer(edge.closest("[data-ruler]"), event)); }
});
document.addEventListener("pointerup", settleEdge);
document.addEventListener("pointercancel", settleEdge);
document.addEventListener("keydown", (event) => {
  const handle = event.target.closest && event.target.closest("[data-edge]");
  if (!handle || !["ArrowLeft", "ArrowRight"].includes(event.key)) { return; }
  event.preventDefault();
  const svg = handle.closest("[data-ruler]");
  const place = Number(handle.getAttribute("aria-valuenow"));
  const outwards = (event.key === "ArrowRight") === (place >= 500);
  tolerate(handle, fromKey(svg, place) * (outwards ? 1.1 : 1 / 1.1));
  touch();
  renew();
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

// The answer of an option is taken as the answer of the part
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-take-key]");
  if (!button) { return; }
  const part = button.closest(".part-fields");
  part.querySelector("[data-key]").value = button.dataset.takeKey;
  const unit = part.querySelector("[name$='-unit']") || part.querySelector("[name$='-after']");
  if (button.dataset.takeUnit) { unit.value = button.dataset.takeUnit; }
  button.remove();
  touch();
  renew();
});

// A tried answer is kept as one of the author's own tests of its part
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-keep-trial]");
  if (!button) { return; }
  const chosen = document.getElementById("try-part");
  const part = document.querySelectorAll("#parts .part-fields")[Number(chosen ? chosen.value : 0)];
  const field = part.querySelector("[name$='-trials']");
  const line = `${document.getElementById("try").value.trim()} | ${button.dataset.keepTrial}`;
  if (!field.value.split("\n").includes(line)) { field.value = field.value.trim() ? `${field.value.trimEnd()}\n${line}` : line; }
  field.closest("details").open = true;
  touch();
  renew();
});

// Answers that were tried stay on the ruler as dots
document.addEventListener("change", (event) => {
  if (event.target.id !== "try" || !event.target.value.trim()) { return; }
  const kept = document.getElementById("tries");
  const lines = kept.value.split("\n").filter((line) => line && line !== event.target.value.trim());
  kept.value = [...lines, event.target.value.trim()].slice(-6).join("\n");
}, true);

// Rows copied from a spreadsheet are pasted into rows of parameters
document.addEventListener("paste", (event) => {
  const cell = event.target.closest && event.target.closest("#parameters input[data-cell]");
  const text = event.clipboardData ? event.clipboardData.getData("text/plain") : "";
  if (!cell || !/[\t\n]/.test(text.trim())) { return; }
  event.preventDefault();
  const order = ["name", "definition", "unit", "shown"];
  const first = order.indexOf(cell.dataset.cell);
  let row = cell.closest("[data-row]");
  text.replace(/\r/g, "").replace(/\n+$/, "").split("\n").forEach((line, number) => {
    if (number) {
      const next = row.nextElementSibling;
      row = next && next.matches("[data-row]") && ![...next.querySelectorAll("[data-cell]")].some((field) => field.value) ? next : emptied(copied(row));
    }
    line.split("\t").forEach((value, place) => {
      const field = row.querySelector(`[data-cell="${order[first + place]}"]`);
      if (field) { field.value = value.trim(); }
    });
  });
  touch();
  renew();
});

// A place in a figure is tried by pointing at it
function askedPart() {
  const chosen = document.getElementById("try-part");
  const part = document.querySelectorAll("#parts .part-fields")[Number(chosen ? chosen.value : 0)];
  return part && part.querySelector("[data-pointed]") ? part : null;
}
document.addEventListener("pointerover", (event) => {
  const figure = event.target.closest && event.target.closest("#sheet svg.figure");
  if (figure) { figure.classList.toggle("is-asked", Boolean(askedPart())); }
});
document.addEventListener("click", (event) => {
  const figure = event.target.closest("#sheet svg.figure");
  const part = figure && askedPart();
  if (!part) { return; }
  const [left, , , top] = figure.dataset.frame.split(" ").map(Number);
  const [beside, head, across, up] = figure.dataset.place.split(" ").map(Number);
  const box = figure.getBoundingClientRect();
  const zoom = figure.viewBox.baseVal.width / box.width;
  const x = left + ((event.clientX - box.left) * zoom - beside) / across;
  const y = top - ((event.clientY - box.top) * zoom - head) / up;
  const place = `(${Number(x.toPrecision(3))}, ${Number(y.toPrecision(3))})`;
  if (event.shiftKey) {
    // a region around the place, to be put right by hand
    const regions = part.querySelector("[name$='-regions']");
    const radius = Number(((Number(figure.dataset.frame.split(" ")[1]) - left) / 16).toPrecision(1));
    regions.value = `${regions.value.trimEnd()}\ncircle ${place} ${radius}`.trimStart();
    touch();
    renew();
    return;
  }
  const field = document.getElementById("try");
  const several = Number(part.querySelector("[name$='-clicks']").value) > 1;
  field.value = several && field.value.trim() ? `${field.value.trim()}; ${place}` : place;
  renew();
});

// A row that was dragged has a new place in the question
document.addEventListener("rowmoved", (event) => { if (event.target.closest("#desk")) { touch(); renew(); } });

// Places in a field of one line: what a message means, and the bracket that belongs to the one at the caret.
// The field is set in letters of one width, so that a place is a number of letters.
const PAIRS = { "(": ")", "[": "]", "{": "}" };
function partner(text, at) {
  const opens = text[at] in PAIRS;
  const step = opens ? 1 : -1;
  let depth = 0;
  for (let k = at; k >= 0 && k < text.length; k += step) {
    if (text[k] in PAIRS) { depth += step; } else if (Object.values(PAIRS).includes(text[k])) { depth -= step; }
    if (depth === 0) { return k; }
  }
  return -1;
}
function bracketAt(field) {
  const text = field.value, caret = field.selectionStart;
  if (caret !== field.selectionEnd) { return []; }
  const at = [caret - 1, caret].find((k) => k >= 0 && "([{)]}".includes(text[k] || " "));
  if (at === undefined) { return []; }
  const other = partner(text, at);
  return other < 0 ? [[at, 1, "lonely"]] : [[at, 1, "bracket"], [other, 1, "bracket"]];
}
const LOOKS = { wrong: ["var(--brick)", "100% - 3px", "2px"], bracket: ["var(--petrol-tint)", "50%", "1.35em"], lonely: ["var(--brick-tint)", "50%", "1.35em"] };
function markPlaces(field) {
  const message = document.querySelector(`[data-mark="${CSS.escape(field.name)}"]`);
  const places = [];
  // what was typed since the message came has moved the places
  if (message && field.dataset.meant === field.value) { places.push([Number(message.dataset.place), Number(message.dataset.length), "wrong"]); }
  if (field === document.activeElement) { places.push(...bracketAt(field)); }
  const style = getComputedStyle(field);
  const images = [], positions = [], sizes = [];
  places.forEach(([from, length, look]) => {
    const [colour, height, size] = LOOKS[look];
    images.push(`linear-gradient(${colour}, ${colour})`);
    positions.push(`calc(${style.paddingLeft} + ${from}ch - ${field.scrollLeft}px) calc(${height})`);
    sizes.push(`${length}ch ${size}`);
  });
  field.style.backgroundImage = images.join(", ");
  field.style.backgroundPosition = positions.join(", ");
  field.style.backgroundSize = sizes.join(", ");
  field.style.backgroundRepeat = "no-repeat";
  field.setAttribute("aria-invalid", message ? "true" : "false");
}
function markAll() {
  document.querySelectorAll("#desk .fields [data-mark]").forEach((message) => {
    const field = document.getElementsByName(message.dataset.mark)[0];
    if (field) { field.dataset.meant = field.value; }
  });
  document.querySelectorAll("#desk .fields input.mono, #desk .fields input[data-cell]").forEach(markPlaces);
}
document.addEventListener("htmx:afterSettle", markAll);
document.addEventListener("DOMContentLoaded", markAll);
document.addEventListener("selectionchange", () => {
  const field = document.activeElement;
  if (field && field.matches && field.matches("#desk .fields input.mono, #desk .fields input[data-cell]")) { markPlaces(field); }
});
document.addEventListener("focusout", (event) => {
  if (event.target.matches("#desk .fields input.mono, #desk .fields input[data-cell]")) { requestAnimationFrame(() => markPlaces(event.target)); }
});
document.addEventListener("scroll", (event) => {
  if (event.target.matches && event.target.matches("#desk .fields input")) { markPlaces(event.target); }
}, true);
