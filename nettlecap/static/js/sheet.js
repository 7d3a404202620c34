// The exposure sheet on the left: follows the clock, and scrubs it by click or drag.

export class Sheet {
  constructor(element, clock) {
    this.element = element;
    this.clock = clock;
    this.dragging = false;
    clock.addEventListener("frame", () => this.follow());
    element.addEventListener("pointerdown", (event) => this.grab(event));
    element.addEventListener("pointermove", (event) => this.drag(event));
    window.addEventListener("pointerup", () => {
      this.dragging = false;
    });
    this.follow();
  }

  grab(event) {
    const row = event.target.closest("[data-frame]");
    if (!row) return;
    this.dragging = true;
    this.clock.stopAt(Number(row.dataset.frame));
  }

  drag(event) {
    if (!this.dragging) return;
    const row = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-frame]");
    if (row && this.element.contains(row)) this.clock.goTo(Number(row.dataset.frame));
  }

  /** Mark the row of the frame that shows, and keep it in sight. */
  follow() {
    const rows = this.element.querySelector(".rows");
    rows.querySelector(".here")?.classList.remove("here");
    const row = rows.querySelector(`[data-frame="${this.clock.frame}"]`);
    if (!row) return;
    row.classList.add("here");
    if (this.dragging) return;
    const top = row.offsetTop - rows.offsetTop;
    if (top < rows.scrollTop + 40 || top > rows.scrollTop + rows.clientHeight - 60) {
      rows.scrollTop = top - rows.clientHeight / 2;
    }
  }
}
