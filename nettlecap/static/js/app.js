// What every page has: Alpine's parts, the lamp, and errors told in words.

import Alpine from "../vendor/alpine.js";

const LAMP = "nettlecap-lamp";
const SAVING = "Saving …";

Alpine.data("layers", () => ({
  hidden: null,
  init() {
    const player = this.$root.closest("[data-player]");
    player.addEventListener("all-layers", () => this.toggleAll());
  },
  changed() {
    const boxes = [...this.$root.querySelectorAll("[data-layer]")];
    const detail = Object.fromEntries(boxes.map((box) => [box.dataset.layer, box.checked]));
    this.$root.closest("[data-player]").dispatchEvent(new CustomEvent("layers", { detail }));
  },
  toggleAll() {
    const boxes = [...this.$root.querySelectorAll("[data-layer]")];
    if (boxes.some((box) => box.checked)) {
      this.hidden = boxes.filter((box) => box.checked);
      this.hidden.forEach((box) => { box.checked = false; });
    } else {
      (this.hidden || boxes).forEach((box) => { box.checked = true; });
    }
    this.changed();
  },
}));

Alpine.start();

const lamp = document.querySelector("[data-dim]");
dim(localStorage.getItem(LAMP) === "dim");
lamp.addEventListener("click", () => dim(document.documentElement.dataset.lamp !== "dim"));

function dim(is) {
  document.documentElement.dataset.lamp = is ? "dim" : "day";
  localStorage.setItem(LAMP, is ? "dim" : "day");
  lamp.setAttribute("aria-pressed", String(is));
  lamp.textContent = is ? "Light the lamp" : "Dim the lamp";
}

/** Tell a person what went wrong with something that was to be saved. */
function tell(words) {
  const place = document.getElementById("say");
  place.textContent = words;
  place.hidden = false;
  document.querySelectorAll("[data-saved]").forEach((saved) => { saved.textContent = "Not saved"; });
}

document.addEventListener("htmx:responseError", (event) => {
  const { status, responseText } = event.detail.xhr;
  tell(status < 500 ? responseText : "That could not be saved; something went wrong on our side. Try again.");
});
document.addEventListener("htmx:sendError", () => {
  tell("That could not be saved: there is no connection. What you typed is still here; try again.");
});
document.addEventListener("htmx:beforeRequest", () => {
  document.getElementById("say").hidden = true;
  document.querySelectorAll("[data-saved]").forEach((saved) => { saved.textContent = SAVING; });
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (!event.detail.successful) return;
  // What was swapped in says for itself how it stands.
  document.querySelectorAll("[data-saved]").forEach((saved) => {
    if (saved.textContent === SAVING) saved.textContent = "Saved";
  });
});
