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

function typing(target) {
  return target.matches("input, textarea, select, [contenteditable]");
}

// "?" shows the keys
document.addEventListener("keydown", (event) => {
  const keys = document.getElementById("keys");
  if (event.key === "?" && keys && !keys.open && !typing(event.target)) { event.preventDefault(); keys.showModal(); }
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
document.addEventListener("rowmoved", (event) => {
  const list = event.target.closest("[data-arrange]");
  if (list) { window.htmx.trigger(list, "arranged"); }
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

// A request that a later one replaces, or that ends because the page is left, is no error; htmx writes it down as one.
document.addEventListener("htmx:beforeSend", (event) => {
  const request = event.detail.xhr;
  const ended = request.onabort;
  request.onabort = (stop) => {
    const write = console.error;
    console.error = () => {};
    try { ended.call(request, stop); } finally { console.error = write; }
  };
});
