// Regions of a figure on the sheet: seen, moved, resized and drawn with the pointer or the arrow keys, and the places that
// were tried. What becomes of a region's line is worked out by the server.
import { on } from "../../design/scripts/delegate.js";
import { ask } from "./asking.js";
import { changedBy, coordinates, corners, drawnAt, grips, layoutOf, moves } from "./figure.js";
import { carryOut } from "./filling.js";
import { partAt } from "./tries.js";

const SVG = "http://www.w3.org/2000/svg";
// a press that goes no further is a click, in pixels
const STILL = 4;

let drag = null;
let drawing = null;
let focused = null;

function element(name, attributes, inside) {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  inside.append(made);
  return made;
}

function placeOf(figure, event) {
  const { frame, place, width } = layoutOf(figure);
  return coordinates(frame, place, figure.getBoundingClientRect(), width, event);
}

/** The figure that the regions of a part lie in. */
function figureOf(part) {
  const called = (holder) =>
    [...(holder?.querySelectorAll("svg.figure[data-frame]") ?? [])].find(
      (each) => each.dataset.name === part.dataset.figure,
    );
  return called(part) ?? called(document.getElementById("sheet"));
}

/** The layer over a figure, made when it is first needed. */
function layerOver(figure) {
  const there = figure.parentElement.querySelector(":scope > svg.regions");
  if (there) return there;
  const box = document.createElement("span");
  box.className = "figure-box";
  figure.replaceWith(box);
  box.append(figure);
  return element(
    "svg",
    { class: "regions", viewBox: figure.getAttribute("viewBox"), role: "group", "aria-label": "Regions of the figure" },
    box,
  );
}

function outline(layer, figure, word, numbers, attributes) {
  const { frame, place } = layoutOf(figure);
  const spots = corners(word, numbers).map((spot) => drawnAt(frame, place, spot));
  if (word !== "circle")
    return element("polygon", { points: spots.map((spot) => spot.join(" ")).join(" "), ...attributes }, layer);
  const [across, up] = place.slice(2).map((length) => Math.abs(numbers[2] * length));
  return element("ellipse", { cx: spots[0][0], cy: spots[0][1], rx: across, ry: up, ...attributes }, layer);
}

function layRegion(layer, figure, part, row, { word, numbers }, mayWrite) {
  const group = element("g", { "data-region": row, "data-part": part.dataset.sheetPart }, layer);
  const look = mayWrite
    ? {
        class: "region",
        tabindex: "0",
        role: "button",
        "aria-label": `Region ${row + 1}: arrow keys move it, Shift and arrow keys resize it`,
      }
    : { class: "region" };
  outline(group, figure, word, numbers, look);
  if (!mayWrite) return;
  const { frame, place } = layoutOf(figure);
  for (const { at, across, up } of grips(word, numbers)) {
    const [cx, cy] = drawnAt(frame, place, at);
    element("circle", { class: "grip", cx, cy, r: 5, "data-across": across, "data-up": up }, group);
  }
}

function layTried(layer, figure, places) {
  const { frame, place } = layoutOf(figure);
  for (const spot of places) {
    const [x, y] = drawnAt(frame, place, spot);
    element(
      "path",
      { class: "tried-place", d: `M${x - 6} ${y - 6}L${x + 6} ${y + 6}M${x - 6} ${y + 6}L${x + 6} ${y - 6}` },
      layer,
    );
  }
}

/** Lay the regions and the tried places of the whole sheet. */
function lay() {
  const mayWrite = Boolean(document.getElementById("save"));
  for (const layer of document.querySelectorAll("#sheet svg.regions")) layer.replaceChildren();
  for (const part of document.querySelectorAll("#sheet [data-figure]")) {
    const figure = figureOf(part);
    if (!figure) continue;
    const layer = layerOver(figure);
    const regions = JSON.parse(part.dataset.regions || "[]");
    for (const [row, region] of regions.entries()) layRegion(layer, figure, part, row, region, mayWrite);
    layTried(layer, figure, JSON.parse(part.dataset.tried || "[]"));
  }
  if (drawing && !drawOn()) stop();
  if (focused)
    document.querySelector(`#sheet g[data-part="${focused.part}"][data-region="${focused.row}"] .region`)?.focus();
}

document.addEventListener("htmx:afterSettle", () => drag || lay());
document.addEventListener("DOMContentLoaded", lay);

/** What is known of the region that something belongs to. */
function known(shape) {
  const group = shape.closest("[data-region]");
  const part = document.querySelector(`#sheet [data-sheet-part="${group.dataset.part}"]`);
  const row = Number(group.dataset.region);
  return { group, part, row, figure: figureOf(part), region: JSON.parse(part.dataset.regions)[row] };
}

function tell({ part, row, figure }, shifts) {
  const { frame } = layoutOf(figure);
  const done = { part: partAt(part), row, shifts: JSON.stringify(shifts), width: frame[1] - frame[0] };
  return ask("region", done).then(carryOut);
}

function shiftsOf({ region, grip }, dx, dy) {
  if (!grip) return moves(region.word, region.numbers, dx, dy);
  const shifts = {};
  if (grip.across >= 0) shifts[grip.across] = dx;
  if (grip.up >= 0) shifts[grip.up] = dy;
  return shifts;
}

on("pointerdown", "#sheet svg.regions .region, #sheet svg.regions .grip", (shape, event) => {
  if (drawing || event.button || !document.getElementById("save")) return;
  const about = known(shape);
  const { across, up } = shape.dataset;
  const grip = shape.matches(".grip") ? { across: Number(across), up: Number(up) } : null;
  drag = {
    ...about,
    grip,
    from: placeOf(about.figure, event),
    shifts: {},
    x: event.clientX,
    y: event.clientY,
    moved: false,
  };
  event.preventDefault();
  about.group.querySelector(".region").focus();
});

document.addEventListener("pointermove", (event) => {
  if (drawing?.started) sketch(event);
  if (!drag) return;
  if (Math.hypot(event.clientX - drag.x, event.clientY - drag.y) > STILL) drag.moved = true;
  if (!drag.moved) return;
  const [x, y] = placeOf(drag.figure, event);
  drag.shifts = shiftsOf(drag, x - drag.from[0], y - drag.from[1]);
  const { word, numbers } = drag.region;
  const layer = drag.group.parentElement;
  drag.group.replaceChildren();
  const fresh = changedBy(numbers, drag.shifts);
  outline(drag.group, drag.figure, word, fresh, { class: "region is-moving" });
  layer.append(drag.group);
});

function letGo(event) {
  if (!drag) return;
  const done = drag;
  drag = null;
  focused = { part: done.part.dataset.sheetPart, row: done.row };
  if (done.moved) tell(done, done.shifts).then(() => drag || lay());
  // a press that stayed where it was points at the place below it
  else
    done.figure.dispatchEvent(
      new MouseEvent("click", {
        bubbles: true,
        clientX: event.clientX,
        clientY: event.clientY,
        shiftKey: event.shiftKey,
      }),
    );
}
document.addEventListener("pointerup", letGo);
document.addEventListener("pointercancel", () => {
  drag = null;
  lay();
});

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

on("keydown", "#sheet svg.regions .region", (shape, event) => {
  const about = known(shape);
  if (["Delete", "Backspace"].includes(event.key)) {
    event.preventDefault();
    focused = null;
    rowsOf(about.part)[about.row]?.querySelector("[data-drop]")?.click();
    return;
  }
  const arrow = ARROWS[event.key];
  if (!arrow) return;
  event.preventDefault();
  const { frame } = layoutOf(about.figure);
  const step = (frame[1] - frame[0]) / 100;
  const [dx, dy] = arrow.map((each) => each * step);
  const { word, numbers } = about.region;
  const last = grips(word, numbers).at(word === "box" ? 2 : -1);
  focused = { part: about.part.dataset.sheetPart, row: about.row };
  tell(
    about,
    event.shiftKey ? shiftsOf({ grip: last }, dx || (word === "circle" ? dy : 0), dy) : moves(word, numbers, dx, dy),
  );
});
on("focusout", "#sheet svg.regions .region", () => {
  // what takes the place of the sheet takes the focus away, and gets it back
  if (document.activeElement && document.activeElement !== document.body) focused = null;
});

/** The rows of the regions of a part in which anything stands. */
function rowsOf(part) {
  const list = document.getElementById(`regions-${part.dataset.sheetPart}`);
  const filled = (row) => [...row.querySelectorAll("[data-cell]")].some((cell) => cell.value.trim());
  return [...(list?.children ?? [])].filter(filled);
}

// drawing

/** Draw on the figure that is on the sheet now: the sheet may have been renewed since. */
function drawOn() {
  const name = drawing.row.querySelector("[name$=-figure]").value.trim();
  const figures = [...document.querySelectorAll("#sheet svg.figure[data-frame]")];
  drawing.figure = figures.find((each) => each.dataset.name === name) ?? figures[0];
  if (!drawing.figure) return false;
  drawing.layer = layerOver(drawing.figure);
  drawing.layer.classList.add("is-drawing");
  return true;
}

function stop() {
  drawing?.button.setAttribute("aria-pressed", "false");
  const way = drawing?.button.parentElement.querySelector("[data-draw-way]");
  if (way) way.textContent = "";
  drawing?.layer?.classList.remove("is-drawing");
  drawing = null;
  lay();
}

on("click", "[data-draw]", (button) => {
  const same = drawing?.button === button;
  if (drawing) stop();
  if (same) return;
  const row = button.closest(".part-fields");
  const rows = [...document.querySelectorAll("#parts > .part-fields")];
  const way = button.parentElement.querySelector("[data-draw-way]");
  drawing = { button, row, part: rows.indexOf(row), shape: button.dataset.draw, places: [], started: false };
  if (!drawOn()) {
    drawing = null;
    way.textContent = "There is no figure on the sheet yet.";
    return;
  }
  button.setAttribute("aria-pressed", "true");
  way.textContent = `${button.title}. Escape ends it.`;
  drawing.figure.scrollIntoView({ block: "nearest" });
});

on("pointerdown", "#sheet svg.regions.is-drawing", (layer, event) => {
  if (event.button) return;
  event.preventDefault();
  layer.setPointerCapture(event.pointerId);
  drawing.started = true;
  drawing.places.push(placeOf(drawing.figure, event));
});

function sketch(event) {
  const { layer, figure, shape, places } = drawing;
  layer.querySelector(".sketch")?.remove();
  const here = placeOf(figure, event);
  const all = [...places, here];
  if (shape === "polygon") {
    if (all.length > 1) outline(layer, figure, "polygon", all.flat(), { class: "region sketch" });
  } else if (shape === "box") outline(layer, figure, "box", [...places[0], ...here], { class: "region sketch" });
  else {
    const radius = Math.hypot(here[0] - places[0][0], here[1] - places[0][1]);
    outline(layer, figure, "circle", [...places[0], radius], { class: "region sketch" });
  }
}

function finish(places) {
  const { part, shape, figure } = drawing;
  const { frame } = layoutOf(figure);
  stop();
  const done = { part, shape, places: JSON.stringify(places), width: frame[1] - frame[0] };
  ask("draw", done).then(carryOut);
}

on("pointerup", "#sheet svg.regions.is-drawing", (_layer, event) => {
  if (!drawing?.started) return;
  event.stopPropagation();
  const { figure, shape, places } = drawing;
  if (shape !== "polygon") {
    const end = placeOf(figure, event);
    const { frame, place } = layoutOf(figure);
    const [a, b] = [places[0], end].map((spot) => drawnAt(frame, place, spot));
    finish(Math.hypot(a[0] - b[0], a[1] - b[1]) > STILL ? [places[0], end] : [places[0]]);
    return;
  }
  const { frame, place } = layoutOf(figure);
  const [first, last] = [places[0], places.at(-1)].map((spot) => drawnAt(frame, place, spot));
  if (places.length > 3 && Math.hypot(first[0] - last[0], first[1] - last[1]) < 10) finish(places.slice(0, -1));
});

document.addEventListener("keydown", (event) => {
  if (!drawing) return;
  if (event.key === "Escape") stop();
  else if (event.key === "Enter" && drawing.shape === "polygon" && drawing.places.length > 2) finish(drawing.places);
  else return;
  event.preventDefault();
});
