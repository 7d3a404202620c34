// Another clip beside this one: an earlier take, the brief's guide, or the same drawings at another rate. Which of its
// frames belongs to which of ours, the server says; both step together.

import { Clock, keepStep } from "./clock.js";
import { Drawings } from "./drawings.js";
import { drawingAt } from "./exposures.js";
import { layShifted } from "./picture.js";
import { setOpened } from "./room.js";

const KEPT = "nettlecap-way";
const WAYS = ["side", "over", "turn"];
const PAPER = "#fffdf7";

export class Companion {
  constructor(player) {
    this.player = player;
    this.select = player.element.querySelector("[data-companion]");
    if (!this.select) return;
    this.box = player.element.querySelector("[data-other]");
    this.words = this.box.querySelector("[data-other-words]");
    this.context = this.box.querySelector("canvas").getContext("2d");
    this.ways = player.element.querySelector("[data-ways]");
    this.told = this.ways.querySelector("[data-way-told]");
    this.way = WAYS.includes(localStorage.getItem(KEPT)) ? localStorage.getItem(KEPT) : "side";
    this.other = null;
    this.flipped = false;
    player.companion = this;
    this.select.addEventListener("change", () => {
      this.select.blur();
      this.choose(this.select.value);
    });
    this.ways.addEventListener("click", (event) => {
      const way = event.target.closest("[data-way]")?.dataset.way;
      if (way) this.show(way);
    });
    ["frame", "state"].forEach((kind) => player.clock.addEventListener(kind, () => this.follow()));
    player.element.addEventListener("view", () => this.draw());
  }

  /** Whether the other is laid over this clip, or shown in its place. */
  get over() {
    return Boolean(this.other) && this.way === "over";
  }

  get instead() {
    return Boolean(this.other) && this.way === "turn" && this.flipped;
  }

  /** The next clip to see beside this one; nothing after the last. */
  next() {
    if (!this.select) return;
    this.select.selectedIndex = (this.select.selectedIndex + 1) % this.select.options.length;
    this.choose(this.select.value);
  }

  nextWay() {
    if (this.other) this.show(WAYS[(WAYS.indexOf(this.way) + 1) % WAYS.length]);
  }

  show(way) {
    this.way = way;
    this.flipped = false;
    localStorage.setItem(KEPT, way);
    this.paintWays();
  }

  /** Show the other clip in the place of this one, or this one again; whether there was one to show. */
  flip() {
    if (!this.other || this.way !== "turn") return false;
    this.flipped = !this.flipped;
    this.paintWays();
    return true;
  }

  async choose(where) {
    this.asked = where;
    if (where) setOpened(this.select.closest("[data-opened]"), true);
    this.other = null;
    this.flipped = false;
    if (where) this.words.textContent = "Fetching …";
    const other = where && (await this.fetch(where));
    // Another one may have been asked for meanwhile.
    if (this.asked !== where) return;
    this.other = other || null;
    if (other) this.words.textContent = this.select.selectedOptions[0].textContent;
    this.paintWays();
  }

  async fetch(where) {
    const { clip, track } = this.player.data;
    if (where.startsWith("rate:")) {
      const clock = new Clock({ frames: clip.frames, fps: Number(where.slice(5)) });
      clock.addEventListener("frame", () => this.draw());
      const { drawings, shapes } = this.player;
      return { ...clip, clock, pictures: drawings, shapes, shifts: track.shifts };
    }
    const answer = await fetch(where);
    if (!answer.ok) {
      this.words.textContent = answer.status < 500 ? await answer.text() : "It could not be fetched. Try again.";
      return null;
    }
    const told = await answer.json();
    const shapes = new Map(told.shapes.map((shape) => [shape.drawing, shape]));
    let pictures = null;
    if (told.drawings) {
      pictures = new Drawings(told.drawings, [...new Set(told.exposures.map((e) => e.drawing))]);
      await pictures.load(() => {});
    }
    const images = told.svgs ? await imagesOf(told.svgs) : null;
    return { ...told, shapes, pictures, images, aligned: told.frames };
  }

  paintWays() {
    this.ways.hidden = !this.other;
    this.box.hidden = !this.other || this.way !== "side";
    this.ways.querySelectorAll("[data-way]").forEach((button) => {
      button.setAttribute("aria-checked", String(button.dataset.way === this.way));
    });
    const name = this.select.selectedOptions[0].textContent;
    const turn = this.flipped ? `${name} shows; T shows this one` : `T shows ${name}`;
    this.told.textContent = this.way === "turn" ? turn : "";
    this.player.fit();
    this.follow();
    this.player.show();
  }

  /** The other's frame that belongs to the one that shows. */
  get frame() {
    const { clock } = this.player;
    if (this.other.clock) return this.other.clock.frame;
    return this.other.aligned[clock.frame - 1];
  }

  follow() {
    if (!this.other) return;
    if (this.other.clock) keepStep(this.other.clock, this.player.clock);
    this.draw();
  }

  draw() {
    if (!this.other || this.box.hidden) return;
    const { canvas } = this.context;
    canvas.width = this.player.data.clip.width;
    canvas.height = this.player.data.clip.height;
    this.player.view.apply(this.context);
    this.paint(this.context);
  }

  /** Draw the other's frame, fitted into this clip's frame. */
  paint(context, strength = 1) {
    const { other } = this;
    const { width, height } = this.player.data.clip;
    const fit = Math.min(width / other.width, height / other.height);
    const drawing = drawingAt(other.exposures, this.frame);
    context.save();
    context.globalAlpha = strength;
    context.scale(fit, fit);
    if (!other.pictures) this.paintComputed(context, drawing, strength);
    else if (other.pictures.get(drawing)) {
      layShifted(context, other.pictures.get(drawing), other.shifts?.[drawing - 1], other);
    }
    context.restore();
  }

  /** A motion that is not drawn but computed: the server's picture of it, on paper of its own when alone. */
  paintComputed(context, drawing, strength) {
    const { width, height, images } = this.other;
    if (strength === 1) {
      context.fillStyle = PAPER;
      context.fillRect(0, 0, width, height);
    }
    context.drawImage(images[drawing - 1], 0, 0, width, height);
  }
}

/** Pictures of SVG text, once all of them can be drawn. */
async function imagesOf(svgs) {
  return Promise.all(svgs.map(async (svg) => {
    const image = new Image();
    image.src = `data:image/svg+xml,${encodeURIComponent(svg)}`;
    await image.decode();
    return image;
  }));
}
