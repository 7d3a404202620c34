// One clip on a page: its data, its clock, its drawings and its layers, held in one object.

import { Clock, FULL, QUARTER } from "./clock.js";
import { Drawings } from "./drawings.js";
import { Overlays } from "./overlays.js";
import { Packed } from "./packed.js";
import { Picture } from "./picture.js";
import { Stepping } from "./stepping.js";
import { drawingAt, indexAt } from "./exposures.js";
import { boxAround, layersFor, partsOf } from "./showing.js";
import { Looking, View } from "./view.js";

// How tall each of two pictures one below the other may be, as a share of one alone.
const BELOW = 0.46;
// Px between two that stand side by side; and how low a picture gets at most, however low the window is.
const BETWEEN = 6;
const LEAST_TALL = 180;

export class Player {
  /** `kept` are drawings that were fetched already, if they are of this clip. */
  constructor(element, kept = null) {
    this.element = element;
    this.present = new AbortController();
    this.read();
    this.own = readLayers(element);
    // Layers that show the chosen finding best, for as long as it is chosen.
    this.lent = {};
    this.bare = false;
    this.chosen = null;
    this.range = null;
    // What the pointer does over the picture: "ruler", "draw", or nothing in particular.
    this.tool = null;
    const { width, height } = this.data.clip;
    this.view = new View({ width, height, changed: () => this.viewed() });
    this.clock = new Clock({ frames: this.data.clip.frames, fps: this.data.clip.fps });
    this.stepping = new Stepping(this);
    const numbers = [...new Set(this.data.clip.exposures.map((e) => e.drawing))];
    const { drawings } = element.dataset;
    const Kind = "packed" in element.dataset ? Packed : Drawings;
    this.drawings = kept?.base === drawings ? kept : new Kind(drawings, numbers);
    this.picture = new Picture(element.querySelector("[data-canvas]"), element.querySelector("[data-overlay]"), this);
    this.overlays = new Overlays(element.querySelector("[data-overlay]"), this);
    this.looking = new Looking(this);
    this.fit();
    this.sized = new ResizeObserver(() => this.fit());
    this.sized.observe(element.querySelector("[data-stage]"));
    this.clock.addEventListener("frame", () => this.show());
    this.clock.addEventListener("state", () => this.show());
    element.addEventListener("layers", (event) => this.setLayers(event.detail));
  }

  /** Listen to what happens outside of the player, for as long as it is on the page. */
  hear(target, kind, heard, options = {}) {
    target.addEventListener(kind, heard, { ...options, signal: this.present.signal });
  }

  /** It is on the page no more. */
  leave() {
    this.present.abort();
    this.sized.disconnect();
    this.clock.pause();
  }

  read() {
    this.source = document.getElementById("clip-data");
    this.data = JSON.parse(this.source.textContent);
    this.shapes = new Map((this.data.track.shapes || []).map((shape) => [shape.drawing, shape]));
  }

  /** Take over what the server measured anew, if it sent anything; whether it did. */
  refresh() {
    if (document.getElementById("clip-data") === this.source) return false;
    this.read();
    this.overlays.drawStill();
    this.show();
    return true;
  }

  async load() {
    const note = this.element.querySelector("[data-loading]");
    try {
      await this.drawings.load((there, all) => {
        note.textContent = `Fetching the drawings: ${there} of ${all}`;
        if (there === 1 || !this.clock.playing) this.show();
      });
      note.hidden = true;
      this.element.dataset.ready = "true";
    } catch (error) {
      note.textContent = "The drawings could not be fetched. Check the connection and load the page again.";
    }
    this.show();
  }

  /** Make the frame as large as its place allows, at the clip's own proportions. */
  fit() {
    const stage = this.element.querySelector("[data-stage]");
    const box = this.element.querySelector("[data-frame-box]");
    const { width, height } = this.data.clip;
    const boxes = [box, ...stage.querySelectorAll(".beside:not([hidden])")];
    this.element.closest(".desk-grid")?.classList.toggle("two", boxes.length > 1);
    const style = getComputedStyle(stage);
    const room = innerHeight - Number(style.getPropertyValue("--around"));
    const limit = Math.max(LEAST_TALL, Math.min(Number(style.getPropertyValue("--tallest")), room));
    // Two pictures stand side by side or one below the other, whichever shows them larger.
    const beside = Math.min((stage.clientWidth - BETWEEN * (boxes.length - 1)) / width / boxes.length, limit / height);
    const below = boxes.length > 1 ? Math.min(stage.clientWidth / width, (limit * BELOW) / height) : 0;
    const scale = Math.max(beside, below);
    stage.classList.toggle("stacked", below > beside);
    boxes.forEach((one) => {
      one.style.width = `${Math.floor(width * scale)}px`;
      one.style.height = `${Math.floor(height * scale)}px`;
    });
  }

  show() {
    const { clock, data } = this;
    this.picture.draw();
    this.overlays.draw();
    const exposure = data.clip.exposures[indexAt(data.clip.exposures, clock.frame)];
    const where = this.element.querySelector("[data-where]");
    where.textContent = `Frame ${clock.frame} of ${clock.frames} · drawing ${exposure.drawing}`;
    this.pressed("play", clock.playing, clock.playing ? "Stop" : "Play");
    this.pressed("loop", clock.loop);
    this.pressed("quarter", clock.speed === QUARTER);
    this.looking?.paint();
  }

  pressed(act, is, words) {
    const button = this.element.querySelector(`[data-act="${act}"]`);
    if (!button) return;
    button.setAttribute("aria-pressed", String(is));
    if (words) button.textContent = words;
  }

  toggleQuarter() {
    this.clock.setSpeed(this.clock.speed === FULL ? QUARTER : FULL);
  }

  /** What lies over the picture: nothing at a first look, whatever a person switched on. */
  get layers() {
    return this.bare ? {} : { ...this.own, ...this.lent };
  }

  /** Bare of everything that was measured, as long as somebody looks for the first time. */
  setBare(bare) {
    this.bare = bare;
    this.overlays.drawStill();
    this.show();
  }

  /** The person's own choice of layers; what was lent to a finding goes. */
  setLayers(layers) {
    this.own = layers;
    this.lend({});
  }

  lend(layers) {
    this.lent = layers;
    this.element.querySelectorAll("[data-layer]").forEach((box) => {
      box.closest("label").classList.toggle("lent", Boolean(layers[box.dataset.layer]) && !box.checked);
    });
    this.overlays.drawStill();
    this.show();
  }

  /** What is found at a key, if it is there. */
  finding(key) {
    return this.data.findings.find((f) => f.key === key) || null;
  }

  choose(key) {
    const finding = this.finding(key);
    this.chosen = key;
    this.lend(finding ? layersFor(finding) : {});
  }

  /** What there is to see closely: the chosen finding's marks and drawings, or what moves. */
  boxOfInterest() {
    const { clip, size } = this.data;
    const finding = this.finding(this.chosen);
    const { ellipses, points } = finding ? partsOf(finding) : { ellipses: [], points: [] };
    const [first, last] = finding ? [finding.first_frame, finding.last_frame] : [this.clock.frame, this.clock.frame];
    const shown = clip.exposures.filter((e) => e.first_frame <= last && first < e.first_frame + e.frames);
    const shapes = shown.map((e) => this.shapes.get(e.drawing)).filter((shape) => shape);
    const all = { left: 0, top: 0, right: clip.width, bottom: clip.height };
    return boxAround([...ellipses, ...shapes], points, size || clip.height / 10) || all;
  }

  viewed() {
    this.show();
    this.element.dispatchEvent(new CustomEvent("view"));
  }

  /** Take up a tool for the pointer, or lay it down; whichever had it lets it go. */
  take(tool) {
    this.tool = this.tool === tool ? null : tool;
    this.element.dataset.tool = this.tool || "";
    this.element.dispatchEvent(new CustomEvent("tool"));
  }
}

export function readLayers(element) {
  const boxes = element.querySelectorAll("[data-layer]");
  return Object.fromEntries([...boxes].map((box) => [box.dataset.layer, box.checked]));
}
