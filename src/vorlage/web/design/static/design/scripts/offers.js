// What a field offers while one types: a press puts it in the place of what stands behind the last semicolon.
document.addEventListener("click", (event) => {
  const offer = event.target.closest("[data-offer]");
  if (!offer) return;
  const list = offer.closest("[data-offers]");
  const field = list.parentElement.querySelector("[data-offered]");
  const before = field.value.split(";").slice(0, -1);
  field.value = [...before.map((each) => each.trim()), offer.dataset.offer].join("; ");
  list.replaceChildren();
  field.focus();
  field.dispatchEvent(new Event("change", { bubbles: true }));
});
