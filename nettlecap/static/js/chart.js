// The slim chart under the picture: a line moves with the clock, a click goes there. The chart itself may be drawn anew
// by the server, so it is looked up each time.

const KEPT = "nettlecap-measure";

export class Chart {
  constructor(player) {
    const { clock } = player;
    this.clock = clock;
    clock.addEventListener("frame", () => this.follow());
    player.hear(document, "htmx:afterSettle", () => this.follow());
    player.hear(document, "pointerdown", (event) => this.go(event));
    player.hear(document, "pointermove", (event) => {
      if (event.buttons === 1) this.go(event);
    });
    this.select = document.querySelector("[data-measure]");
    this.select?.addEventListener("change", () => this.choose(this.select.value));
    this.shown = localStorage.getItem(KEPT) || "height";
    player.hear(document, "htmx:afterSettle", () => this.show(this.shown));
    this.show(this.shown);
    this.follow();
  }

  /** Show a measure, here and on the next clips. */
  choose(key) {
    localStorage.setItem(KEPT, key);
    this.asked = true;
    this.show(key);
  }

  /** Show the measure that tells of a finding, unless the person asked for one on this clip. */
  lend(key) {
    if (!this.asked) this.show(key);
  }

  /** Show a measure; the first one where it is not charted. */
  show(key) {
    this.shown = key;
    const charts = [...document.querySelectorAll("[data-chart]")];
    const shown = charts.find((chart) => chart.dataset.chart === key) || charts[0];
    charts.forEach((chart) => { chart.hidden = chart !== shown; });
    if (this.select && shown) this.select.value = shown.dataset.chart;
  }

  next() {
    const keys = [...document.querySelectorAll("[data-chart]")].map((chart) => chart.dataset.chart);
    if (keys.length > 0) this.choose(keys[(keys.indexOf(this.shown) + 1) % keys.length]);
  }

  follow() {
    document.querySelectorAll("[data-chart] [data-now]").forEach((line) => {
      const x = ((this.clock.frame - 0.5) / this.clock.frames) * line.ownerSVGElement.viewBox.baseVal.width;
      line.setAttribute("x1", x);
      line.setAttribute("x2", x);
    });
  }

  go(event) {
    const chart = event.target.closest?.("[data-chart] svg");
    if (!chart) return;
    const box = chart.getBoundingClientRect();
    this.clock.stopAt(Math.floor(((event.clientX - box.left) / box.width) * this.clock.frames) + 1);
  }
}
