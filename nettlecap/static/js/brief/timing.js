// The timing chart: its in-betweens can be dragged along their move, or stepped with the left and right keys.

import { draggable } from "./drag.js";
import { show } from "./svg.js";

const NEAR = 0.01;

export class Timing {
  constructor(place, letGo, values) {
    this.place = place;
    this.letGo = letGo;
    this.values = values;
    letGo.addEventListener("click", () => {
      values.set({ ticks: {} });
      values.keep();
    });
  }

  show(text) {
    const focused = this.place.querySelector(":focus")?.dataset.drawing;
    const chart = show(this.place, text);
    chart.querySelectorAll("[data-move]").forEach((move) => this.listen(move));
    if (focused) chart.querySelector(`[data-drawing="${focused}"]`)?.focus({ preventScroll: true });
    this.letGo.hidden = Object.keys(this.ticks()).length === 0;
  }

  ticks() {
    return JSON.parse(this.values.get("ticks") || "{}") || {};
  }

  listen(move) {
    const left = Number(move.dataset.x);
    const length = Number(move.dataset.length);
    const ticks = [...move.querySelectorAll("[data-drawing]")];
    const shares = ticks.map((tick) => (Number(tick.querySelector("line").getAttribute("x1")) - left) / length);
    ticks.forEach((tick, i) => {
      if (tick.dataset.free !== "1") return;
      tick.setAttribute("tabindex", "0");
      tick.setAttribute("role", "slider");
      tick.setAttribute("aria-label", `Drawing ${tick.dataset.drawing}`);
      tick.setAttribute("aria-valuenow", Math.round(100 * shares[i]));
      const low = (shares[i - 1] ?? 0) + NEAR;
      const high = (shares[i + 1] ?? 1) - NEAR;
      draggable(tick, {
        step: length / 100,
        place: () => [left + length * shares[i], 0],
        moved: (x) => {
          const share = Math.min(high, Math.max(low, (x - left) / length));
          this.values.set({ ticks: { ...this.ticks(), [tick.dataset.drawing]: Math.round(1000 * share) / 1000 } });
        },
        ended: () => this.values.keep(),
      });
    });
  }
}
