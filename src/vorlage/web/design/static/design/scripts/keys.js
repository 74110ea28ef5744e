// Keys that work everywhere: "?" shows them all, "/" goes to the jump field, Ctrl+S saves.
import { isTyping, on } from "./delegate.js";

document.addEventListener("keydown", (event) => {
  if (event.target instanceof Element && isTyping(event.target)) return;
  const keys = document.getElementById("keys");
  if (event.key === "?" && keys && !keys.open) {
    event.preventDefault();
    keys.showModal();
  }
  const jump = document.getElementById("jump");
  if (event.key === "/" && jump && !event.ctrlKey && !event.metaKey) {
    event.preventDefault();
    jump.focus();
  }
});

on("keydown", "#jump", (jump, event) => {
  if (event.key !== "Escape") return;
  jump.value = "";
  document.getElementById("jump-results").replaceChildren();
});

document.addEventListener("keydown", (event) => {
  const save = document.getElementById("save");
  if (save && (event.ctrlKey || event.metaKey) && event.key === "s") {
    event.preventDefault();
    save.click();
  }
});
