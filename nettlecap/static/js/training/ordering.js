// Drawings chosen one after another, in the order in which they come.

export class Ordering {
  constructor(element, form) {
    this.form = form;
    this.buttons = [...element.querySelectorAll("[data-lay]")];
    this.row = [];
    element.querySelector("[data-ordering]").addEventListener("click", (event) => {
      const button = event.target.closest("[data-lay]");
      if (button) this.toggle(button);
    });
    element.dataset.ready = "true";
    this.paint();
  }

  /** By its number as it lies; whether there is one. */
  lay(number) {
    const button = this.buttons[number - 1];
    if (button) this.toggle(button);
    return Boolean(button);
  }

  toggle(button) {
    const { lay } = button.dataset;
    this.row = this.row.includes(lay) ? this.row.filter((other) => other !== lay) : [...this.row, lay];
    this.paint();
  }

  startOver() {
    this.row = [];
    this.paint();
  }

  paint() {
    this.form.querySelector("[name=row]").value = this.row.join(",");
    this.buttons.forEach((button) => {
      const at = this.row.indexOf(button.dataset.lay);
      button.setAttribute("aria-pressed", String(at >= 0));
      button.querySelector("[data-place]").textContent = at >= 0 ? `${at + 1}` : "";
      button.style.order = at >= 0 ? String(at) : "9";
    });
  }
}
