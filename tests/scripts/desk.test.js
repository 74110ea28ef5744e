// What the scripts of the desk work out by themselves: places, brackets, completions, cells.
import assert from "node:assert/strict";
import { test } from "node:test";

const DESK = "../../src/vorlage/web/desk/static/desk/scripts";
const { marksAt, partner } = await import(`${DESK}/brackets.js`);
const { caretIn, completions, wordAt } = await import(`${DESK}/completing.js`);
const { cellsOf } = await import(`${DESK}/cells.js`);
const { changedBy, coordinates, corners, drawnAt, grips, moves } = await import(`${DESK}/figure.js`);
const { labelsOf } = await import(`${DESK}/labels.js`);
const { distanceAt, wider } = await import(`${DESK}/line.js`);

test("a bracket finds its partner, whatever stands between", () => {
  assert.equal(partner("(a + [b])", 0), 8);
  assert.equal(partner("(a + [b])", 8), 0);
  assert.equal(partner("(a + [b])", 5), 7);
  assert.equal(partner("(a", 0), -1);
  assert.equal(partner("a)", 1), -1);
});

test("the bracket beside the caret is marked, before it first", () => {
  assert.deepEqual(marksAt("(x)", 0), [
    [0, 1, "bracket"],
    [2, 1, "bracket"],
  ]);
  assert.deepEqual(marksAt("2*(x", 3), [[2, 1, "lonely"]]);
  assert.deepEqual(marksAt("abc", 2), []);
  assert.deepEqual(marksAt("", 0), []);
});

test("a word that is a name or a function already is left alone", () => {
  assert.deepEqual(completions("dT", ["dT", "dT2"], ["sqrt()"]), []);
  assert.deepEqual(completions("sqrt", [], ["sqrt()", "sqrt_x"]), []);
});

test("a word is completed by names of the question first, and a letter by nothing", () => {
  assert.equal(wordAt("2*mas", 5), "mas");
  assert.equal(wordAt("2*mas", 2), "");
  assert.equal(wordAt("row.den", 7), "row.den");
  const offered = ["max(, )", "mean()", "matrix(, ; , )"];
  assert.deepEqual(completions("ma", ["mass", "height"], offered), ["mass", "max(, )", "matrix(, ; , )"]);
  assert.deepEqual(completions("m", ["mass"], offered), []);
  assert.deepEqual(completions("mass", ["mass"], offered), []);
  assert.equal(completions("a_", ["a_1", "a_2", "a_3", "a_4", "a_5", "a_6", "a_7"], []).length, 6);
});

test("the caret goes to the first argument of what is inserted", () => {
  assert.equal(caretIn("sqrt()"), 5);
  assert.equal(caretIn("root(3, )"), 5);
  assert.equal(caretIn("one of "), -1);
});

test("cells are rows of a spreadsheet, or one cell alone", () => {
  assert.deepEqual(cellsOf("m\t2..9\tkg\r\nh\t1..3\tm\r\n"), [
    ["m", "2..9", "kg"],
    ["h", "1..3", "m"],
  ]);
  assert.equal(cellsOf("2..9\n"), null);
  assert.equal(cellsOf(""), null);
});

test("a place in the window has coordinates in a figure", () => {
  // a frame from (0, 0) to (10, 6), 30 from the left and 20 from the top, 40 by 40 a unit, shown at half its size
  const box = { left: 100, top: 50, width: 250 };
  const place = coordinates([0, 10, 0, 6], [30, 20, 40, 40], box, 500, { clientX: 215, clientY: 80 });
  assert.deepEqual(place, [5, 5]);
});

test("an edge of the ruler is as far from the key as it is dragged, or a tenth more or less", () => {
  const box = { left: 0, width: 1040 };
  assert.equal(distanceAt(box, 520, 10), 0);
  assert.equal(distanceAt(box, 620, 10), 10);
  assert.equal(distanceAt(box, 420, 10), 10);
  assert.ok(Math.abs(wider(600, 10, true) - 11) < 1e-9);
  assert.ok(Math.abs(wider(600, 10, false) - 10 / 1.1) < 1e-9);
  assert.ok(Math.abs(wider(400, 10, false) - 11) < 1e-9);
});

test("a place in a figure lies where it came from", () => {
  const [frame, layout] = [
    [0, 10, 0, 6],
    [30, 20, 40, 40],
  ];
  const [x, y] = drawnAt(frame, layout, [2.5, 4]);
  const box = { left: 0, top: 0, width: 500 };
  assert.deepEqual(coordinates(frame, layout, box, 500, { clientX: x, clientY: y }), [2.5, 4]);
});

test("a region is moved as a whole, and resized where it is taken", () => {
  const box = [0, 0, 4, 2];
  assert.deepEqual(corners("box", box)[2], [4, 2]);
  assert.deepEqual(changedBy(box, moves("box", box, 1, -1)), [1, -1, 5, 1]);
  assert.deepEqual(grips("box", box)[1], { at: [4, 0], across: 2, up: 1 });
  assert.deepEqual(changedBy([1, 2, 0.5], moves("circle", [1, 2, 0.5], 1, 1)), [2, 3, 0.5]);
  assert.deepEqual(grips("circle", [1, 2, 0.5]), [{ at: [1.5, 2], across: 2, up: -1 }]);
  assert.equal(grips("polygon", [0, 0, 1, 0, 0, 1]).length, 3);
});

test("parts are lettered, those under them numbered, and one alone has no label", () => {
  assert.deepEqual(labelsOf([false]), [""]);
  assert.deepEqual(labelsOf([false, false, true, true, false]), ["(a)", "(b)", "(b)(i)", "(b)(ii)", "(c)"]);
  assert.deepEqual(labelsOf([true, true]), ["(a)", "(a)(i)"]);
});
