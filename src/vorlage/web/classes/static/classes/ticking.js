// The students that are ticked in a list.
document.addEventListener("alpine:init", () => {
  window.Alpine.data("ticked", () => ({
    ticked: 0,
    boxes() {
      return [...this.$root.querySelectorAll("input[type=checkbox][name]")];
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
