// The slim chart under the picture: a line moves with the clock, a click goes there.

export class Chart {
  constructor(element, clock) {
    this.element = element;
    this.clock = clock;
    this.line = element.querySelector("[data-now]");
    this.svg = element.querySelector("svg");
    this.width = this.svg.viewBox.baseVal.width;
    clock.addEventListener("frame", () => this.follow());
    this.svg.addEventListener("pointerdown", (event) => this.go(event));
    this.svg.addEventListener("pointermove", (event) => {
      if (event.buttons === 1) this.go(event);
    });
    this.follow();
  }

  follow() {
    const x = ((this.clock.frame - 0.5) / this.clock.frames) * this.width;
    this.line.setAttribute("x1", x);
    this.line.setAttribute("x2", x);
  }

  go(event) {
    const box = this.svg.getBoundingClientRect();
    this.clock.stopAt(Math.floor(((event.clientX - box.left) / box.width) * this.clock.frames) + 1);
  }
}
