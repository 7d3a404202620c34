// The exposure sheet on the left: follows the clock, and scrubs it by click or drag. A drag also marks a range of
// frames, for a note about more than one.

export class Sheet {
  constructor(element, player) {
    const { clock } = player;
    this.element = element;
    this.player = player;
    this.clock = clock;
    this.dragging = false;
    this.from = 1;
    clock.addEventListener("frame", () => this.follow());
    element.addEventListener("pointerdown", (event) => this.grab(event));
    element.addEventListener("pointermove", (event) => this.drag(event));
    player.hear(window, "pointerup", () => {
      this.dragging = false;
    });
    player.hear(document, "htmx:afterSettle", () => {
      this.follow();
      this.paint();
    });
    this.follow();
  }

  grab(event) {
    const row = event.target.closest("[data-frame]");
    if (!row) return;
    this.dragging = true;
    const frame = Number(row.dataset.frame);
    this.from = event.shiftKey ? this.clock.frame : frame;
    this.clock.stopAt(frame);
    this.mark(this.from, frame);
  }

  /** Mark the frames from one to another; one alone is no range. */
  mark(one, other) {
    const [first, last] = [Math.min(one, other), Math.max(one, other)];
    this.player.range = first === last ? null : { first, last };
    this.paint();
  }

  /** Widen the marked range by a frame, from where the clock stands. */
  extend(by) {
    const { range } = this.player;
    const here = this.clock.frame;
    this.from = range ? (range.first === here ? range.last : range.first) : here;
    this.clock.stopAt(here + by);
    this.mark(this.from, this.clock.frame);
  }

  paint() {
    const { range } = this.player;
    this.element.querySelectorAll(".srow[data-frame]").forEach((row) => {
      const frame = Number(row.dataset.frame);
      row.classList.toggle("ranged", Boolean(range) && range.first <= frame && frame <= range.last);
    });
  }

  drag(event) {
    if (!this.dragging) return;
    const row = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-frame]");
    if (!row || !this.element.contains(row)) return;
    this.clock.goTo(Number(row.dataset.frame));
    this.mark(this.from, this.clock.frame);
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
