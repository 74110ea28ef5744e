// Places in a figure: marked by touch, by mouse, or with the keyboard.
import { coordinates, drawnAt, layoutOf } from "../../desk/scripts/figure.js";

const STEPS = 40;

function rounded(x) {
  return Number(x.toPrecision(4));
}

/** Lets the figure of a part be pointed at; `changed` is called when a place was marked or taken away. */
export function pointable(part, changed) {
  const article = part.closest("article");
  const figure = article.querySelector(`svg.figure[data-name="${CSS.escape(part.dataset.figure)}"]`);
  if (!figure) return;
  const most = Number(part.dataset.places) || 1;
  const { frame, place, width } = layoutOf(figure);
  const [left, right, bottom, top] = frame;
  const marked = () => JSON.parse(part.dataset.marked ?? "[]");
  let cursor = null;

  const sign = (className, [x, y]) => {
    const made = document.createElementNS("http://www.w3.org/2000/svg", "path");
    const [px, py] = drawnAt(frame, place, [x, y]);
    made.setAttribute("d", `M${px - 6} ${py}h12M${px} ${py - 6}v12`);
    made.setAttribute("class", className);
    return made;
  };
  const show = () => {
    for (const old of figure.querySelectorAll(".marked-place, .cursor-place")) old.remove();
    for (const each of marked()) figure.append(sign("marked-place", each));
    if (cursor) figure.append(sign("cursor-place", cursor));
    const list = part.querySelector(".marked-places");
    list.replaceChildren(
      ...marked().map(([x, y], k) => {
        const line = document.createElement("li");
        const away = document.createElement("button");
        away.type = "button";
        away.className = "btn btn-quiet";
        away.textContent = "take away";
        away.setAttribute("aria-label", `Take away the place (${x}, ${y})`);
        away.addEventListener("click", () => put(marked().filter((_, number) => number !== k)));
        line.append(`(${x}, ${y}) `, away);
        return line;
      }),
    );
  };
  const put = (places) => {
    part.dataset.marked = JSON.stringify(places);
    show();
    changed(part);
  };
  const mark = ([x, y]) => put([...marked(), [rounded(x), rounded(y)]].slice(-most));

  figure.classList.add("is-asked");
  figure.setAttribute("tabindex", "0");
  figure.addEventListener("click", (event) => {
    const [x, y] = coordinates(frame, place, figure.getBoundingClientRect(), width, event);
    if (x >= left && x <= right && y >= bottom && y <= top) mark([x, y]);
  });
  figure.addEventListener("keydown", (event) => {
    const ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
    const way = ways[event.key];
    if (way) {
      event.preventDefault();
      const [x, y] = cursor ?? [(left + right) / 2, (bottom + top) / 2];
      const fine = event.shiftKey ? 5 : 1;
      cursor = [
        Math.min(right, Math.max(left, x + (way[0] * (right - left)) / STEPS / fine)),
        Math.min(top, Math.max(bottom, y + (way[1] * (top - bottom)) / STEPS / fine)),
      ];
      show();
    } else if (event.key === "Enter" && cursor) {
      event.preventDefault();
      mark(cursor);
    }
  });
  figure.addEventListener("blur", () => {
    cursor = null;
    show();
  });
  show();
}
