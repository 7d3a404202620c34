// The slim chart under the picture: a line moves with the clock, a click goes there. The chart itself may be drawn anew
// by the server, so it is looked up each time.

export class Chart {
  constructor(clock) {
    this.clock = clock;
    clock.addEventListener("frame", () => this.follow());
    document.addEventListener("htmx:afterSettle", () => this.follow());
    document.addEventListener("pointerdown", (event) => this.go(event));
    document.addEventListener("pointermove", (event) => {
      if (event.buttons === 1) this.go(event);
    });
    this.follow();
  }

  follow() {
    const line = document.querySelector("[data-chart] [data-now]");
    if (!line) return;
    const x = ((this.clock.frame - 0.5) / this.clock.frames) * line.ownerSVGElement.viewBox.baseVal.width;
    line.setAttribute("x1", x);
    line.setAttribute("x2", x);
  }

  go(event) {
    const chart = event.target.closest?.("[data-chart] svg");
    if (!chart) return;
    const box = chart.getBoundingClientRect();
    this.clock.stopAt(Math.floor(((event.clientX - box.left) / box.width) * this.clock.frames) + 1);
  }
}
