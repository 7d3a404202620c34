// The step set, the neighbours from it, flipping to the drawing last looked at, and pinned drawings.

import { SETS, besideIn, framesOf, stepIn } from "./stepsets.js";
import { drawingAt } from "./exposures.js";

const KEPT = "nettlecap-stepping";
const MOST = 8;

export class Stepping {
  constructor(player) {
    this.player = player;
    this.pinned = new Set();
    this.looked = { now: 1, last: 1 };
    this.controls = player.element.querySelector("[name=before]") ? player.element : null;
    const kept = read();
    this.set = SETS.includes(kept.set) ? kept.set : "drawings";
    this.before = kept.before ?? 2;
    this.after = kept.after ?? 2;
    this.gather();
    this.controls?.addEventListener("change", (event) => this.changed(event.target));
    player.clock.addEventListener("frame", () => this.look());
    player.hear(document, "htmx:afterSettle", () => {
      this.gather();
      this.paint();
    });
    this.paint();
  }

  /** The rows of the sheet as they are now; without a sheet, the exposures of the clip. */
  gather() {
    const rows = [...document.querySelectorAll("[data-sheet] .srow[data-frame]")].map((row) => ({
      frame: Number(row.dataset.frame),
      drawing: Number(row.dataset.drawing),
      starts: !row.classList.contains("held"),
      mark: ["key", "breakdown"].find((mark) => row.querySelector(`.d.${mark}`)) || "plain",
      found: Boolean(row.querySelector("[data-key]")),
    }));
    this.rows = rows.length > 0 ? rows : this.player.data.clip.exposures.map((e) => (
      { frame: e.first_frame, drawing: e.drawing, starts: true, mark: e.mark || "plain", found: false }
    ));
    // Without a sheet, stepping goes from drawing to drawing where the clip itself does not tell which are keys.
    if (rows.length === 0 && !this.rows.some((row) => row.mark === "key")) this.set = "drawings";
    this.frames = framesOf(this.rows, this.set);
  }

  changed(field) {
    if (!["set", "before", "after"].includes(field.name)) return;
    if (field.name === "set") this.choose(field.value);
    if (field.name === "before") this.show(Number(field.value), this.after);
    if (field.name === "after") this.show(this.before, Number(field.value));
    field.blur();
  }

  choose(set) {
    this.set = set;
    this.keep();
  }

  nextSet() {
    this.choose(SETS[(SETS.indexOf(this.set) + 1) % SETS.length]);
  }

  show(before, after) {
    this.before = Math.min(MOST, Math.max(0, before));
    this.after = Math.min(MOST, Math.max(0, after));
    this.keep();
  }

  more(by) {
    this.show(this.before + by, this.after + by);
  }

  keep() {
    localStorage.setItem(KEPT, JSON.stringify({ set: this.set, before: this.before, after: this.after }));
    this.gather();
    this.paint();
    this.player.show();
  }

  step(by) {
    const { clock } = this.player;
    clock.stopAt(stepIn(this.frames, clock.frame, by));
  }

  /** Remember the drawing last looked at while standing still. */
  look() {
    const { clock, data } = this.player;
    if (clock.playing) return;
    const { exposures } = data.clip;
    if (drawingAt(exposures, clock.frame) === drawingAt(exposures, this.looked.now)) return;
    this.looked = { now: clock.frame, last: this.looked.now };
  }

  flip() {
    this.player.clock.stopAt(this.looked.last);
  }

  pin() {
    const { clock, data } = this.player;
    const number = drawingAt(data.clip.exposures, clock.frame);
    if (!this.pinned.delete(number)) this.pinned.add(number);
    this.paint();
    this.player.show();
  }

  /** Drawings beside a frame's, the nearest first, and those that are pinned. */
  neighbours(frame) {
    const { exposures } = this.player.data.clip;
    const drawing = (f) => drawingAt(exposures, f);
    const here = drawing(frame);
    const frames = this.set === "frames" ? framesOf(this.rows, "drawings") : this.frames;
    const first = exposures.find((e) => e.drawing === here && e.first_frame <= frame)?.first_frame ?? frame;
    const beside = besideIn(frames, first, MOST, MOST);
    const few = (found, count) => [...new Set(found.map(drawing))].filter((n) => n !== here).slice(0, count);
    return {
      before: few(beside.before, this.before),
      after: few(beside.after, this.after),
      pinned: [...this.pinned].filter((n) => n !== here),
    };
  }

  /** What the marker calls the drawing that shows, and what it would be called next. */
  role() {
    const { clock, data } = this.player;
    const drawing = drawingAt(data.clip.exposures, clock.frame);
    const mark = this.rows.find((row) => row.drawing === drawing && row.starts)?.mark || "plain";
    const next = { key: "breakdown", breakdown: "plain", plain: "key" }[mark];
    return { drawing, next };
  }

  paint() {
    const visited = new Set(this.frames);
    const all = this.set === "frames" || this.set === "drawings";
    document.querySelectorAll("[data-sheet] .srow[data-frame]").forEach((row) => {
      row.classList.toggle("skipped", !all && !visited.has(Number(row.dataset.frame)));
      row.classList.toggle("pinned", this.pinned.has(Number(row.dataset.drawing)));
    });
    if (!this.controls) return;
    const set = this.controls.querySelector("[name=set]");
    if (set) set.value = this.set;
    this.controls.querySelector("[name=before]").value = this.before;
    this.controls.querySelector("[name=after]").value = this.after;
    this.controls.querySelector("[data-counts]").textContent = `${this.before} · ${this.after}`;
  }
}

function read() {
  try {
    return JSON.parse(localStorage.getItem(KEPT)) || {};
  } catch (error) {
    return {};
  }
}
