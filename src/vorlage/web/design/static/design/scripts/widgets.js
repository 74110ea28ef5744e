// What opens and closes, and what counts: the small things that Alpine keeps.
document.addEventListener("alpine:init", () => {
  // the menu on a phone, the person's leaf
  window.Alpine.data("fold", () => ({
    open: false,
    toggle() {
      this.open = !this.open;
    },
    close() {
      this.open = false;
    },
    get openClass() {
      return this.open ? "is-open" : "";
    },
    get expanded() {
      return this.open ? "true" : "false";
    },
  }));
  // the button says how many forms it makes
  window.Alpine.data("amount", () => ({
    count: "",
    init() {
      this.count = this.$el.querySelector("input[type=number]").value;
    },
    choose(event) {
      this.count = event.target.value;
    },
    get noun() {
      return this.count === "1" ? "form" : "forms";
    },
  }));
  // what is ticked in a list
  window.Alpine.data("ticked", () => ({
    ticked: 0,
    boxes() {
      return [...this.$root.querySelectorAll("input[type=checkbox][name]:not([data-apart])")];
    },
    init() {
      this.count();
    },
    count() {
      this.ticked = this.boxes().filter((box) => box.checked).length;
    },
    all(event) {
      for (const box of this.boxes()) box.checked = event.target.checked;
      this.count();
    },
    get words() {
      return this.ticked ? `With the ${this.ticked} ticked:` : "With those ticked:";
    },
  }));
});
