// Placing by hand: the ellipse of what moves and the ground's ends as handles over the picture. Every change is sent at once;
// what follows from it is the server's.

import { drawingAt } from "./exposures.js";
import { ellipseFrom, handlesOf, turned } from "./geometry.js";

const SVG = "http://www.w3.org/2000/svg";
const NUDGE = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const NAMES = { pivot: "Pivot", middle: "Middle", along: "End of the long axis", across: "End of the short axis", left: "Ground at the left", right: "Ground at the right" };

export class Place {
  constructor(player) {
    this.player = player;
    this.url = player.element.dataset.place;
    this.into = player.element.dataset.placeInto;
    this.on = false;
    this.held = null;
    this.group = document.createElementNS(SVG, "g");
    this.group.setAttribute("class", "handles");
    player.overlays.overlay.append(this.group);
    player.clock.addEventListener("frame", () => this.draw());
    this.group.addEventListener("pointerdown", (event) => this.grab(event));
    this.group.addEventListener("pointermove", (event) => this.drag(event));
    this.group.addEventListener("pointerup", () => this.drop());
    this.group.addEventListener("keydown", (event) => this.nudge(event));
    player.hear(document, "htmx:afterSettle", () => this.refreshed());
  }

  toggle() {
    this.on = !this.on;
    this.player.clock.pause();
    this.player.element.dataset.placing = String(this.on);
    this.player.pressed("place", this.on);
    // What is drawn over the picture says nothing that is not told beside it; the handles do.
    this.player.overlays.overlay.setAttribute("aria-hidden", String(!this.on));
    this.draw();
  }

  /** The drawing that shows, and its ellipse; a round one in the middle of the frame where none was found. */
  current() {
    const { data, clock, shapes } = this.player;
    const drawing = drawingAt(data.clip.exposures, clock.frame);
    const size = data.size || data.clip.height / 8;
    const shape = shapes.get(drawing) || { x: data.clip.width / 2, y: data.clip.height / 2, major: size, minor: size, angle: 0 };
    return { drawing, shape };
  }

  ends() {
    const { ground } = this.player.data.track;
    const level = this.player.data.clip.height * 0.85;
    return ground ? [ground.y_left, ground.y_right] : [level, level];
  }

  /** The handles of what it moves against, by name. */
  still() {
    const { clip, fixture, track } = this.player.data;
    if (fixture === "pivot") return { pivot: track.pivot || [clip.width / 2, clip.height / 10] };
    const [left, right] = this.ends();
    return { left: [6, left], right: [clip.width - 7, right] };
  }

  /** The single points of the drawing that shows, by the names of their handles. */
  points() {
    const { drawing } = this.current();
    const found = {};
    (this.player.data.landmarks || []).forEach(({ name, at }) => {
      if (at[drawing]) found[`point-${name}`] = at[drawing];
    });
    return found;
  }

  /** Lines along the limbs, so that each point is known by what it hangs from. */
  limbs() {
    const { drawing } = this.current();
    const at = Object.fromEntries((this.player.data.landmarks || []).map((mark) => [mark.name, mark.at[drawing]]));
    (this.player.data.landmarks || []).forEach(({ name, hangs_from: above }) => {
      if (!at[name] || !at[above]) return;
      const line = document.createElementNS(SVG, "line");
      const [[x1, y1], [x2, y2]] = [at[above], at[name]];
      Object.entries({ x1: x1 + 0.5, y1: y1 + 0.5, x2: x2 + 0.5, y2: y2 + 0.5, class: `limb ${name.split("_")[1] || ""}` }).forEach(([key, value]) => line.setAttribute(key, value));
      this.group.append(line);
    });
  }

  label(handle) {
    return NAMES[handle] || this.pointNamed(handle).label;
  }

  draw() {
    if (this.held) return;
    const focused = this.group.contains(document.activeElement) ? document.activeElement.dataset.handle : null;
    this.group.replaceChildren();
    if (!this.on) return;
    const places = { ...handlesOf(this.current().shape), ...this.still(), ...this.points() };
    this.limbs();
    Object.entries(places).forEach(([name, place]) => this.handle(name, place));
    if (focused) this.group.querySelector(`[data-handle="${focused}"]`)?.focus();
  }

  handle(name, [x, y]) {
    const dot = document.createElementNS(SVG, "circle");
    // What it hangs from is a ring, so that the end of what hangs there can be taken hold of inside it.
    const size = ((name === "pivot" ? 2.2 : 1) * this.player.data.clip.width) / 130 / this.player.view.zoom;
    const attributes = { cx: x + 0.5, cy: y + 0.5, r: size, tabindex: 0, role: "slider", "aria-label": this.label(name), "aria-valuetext": `${x.toFixed(1)}, ${y.toFixed(1)}`, class: name };
    Object.entries(attributes).forEach(([key, value]) => dot.setAttribute(key, value));
    dot.dataset.handle = name;
    const title = document.createElementNS(SVG, "title");
    title.textContent = this.label(name);
    dot.append(title);
    this.group.append(dot);
  }

  grab(event) {
    const name = event.target.dataset?.handle;
    if (!name) return;
    event.preventDefault();
    event.target.setPointerCapture(event.pointerId);
    this.held = name;
  }

  drag(event) {
    if (!this.held) return;
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.group.getScreenCTM().inverse());
    this.moveTo(this.held, point.x - 0.5, point.y - 0.5);
    event.target.setAttribute("cx", point.x);
    event.target.setAttribute("cy", point.y);
  }

  drop() {
    if (!this.held) return;
    const name = this.held;
    this.held = null;
    this.save(name);
    this.draw();
  }

  nudge(event) {
    const name = event.target.dataset?.handle;
    const by = NUDGE[event.key];
    if (!name || !by) return;
    event.preventDefault();
    event.stopPropagation();
    const far = event.shiftKey ? 10 : 1;
    const x = Number(event.target.getAttribute("cx")) - 0.5 + by[0] * far;
    const y = Number(event.target.getAttribute("cy")) - 0.5 + by[1] * far;
    this.moveTo(name, x, y);
    this.draw();
    clearTimeout(this.waiting);
    this.waiting = setTimeout(() => this.save(name), 350);
  }

  moveTo(name, x, y) {
    const { data, shapes } = this.player;
    if (name.startsWith("point-")) {
      this.pointNamed(name).at[this.current().drawing] = [x, y];
    } else if (name === "pivot") {
      data.track.pivot = [x, y];
      this.player.overlays.drawStill();
    } else if (name === "left" || name === "right") {
      const [left, right] = this.ends();
      const ground = data.track.ground || { drawn: true };
      data.track.ground = { ...ground, y_left: name === "left" ? y : left, y_right: name === "right" ? y : right };
      this.player.overlays.drawStill();
    } else {
      const { drawing, shape } = this.current();
      shapes.set(drawing, { ...shape, ...ellipseFrom(shape, name, x, y) });
    }
    this.player.show();
  }

  pointNamed(handle) {
    return this.player.data.landmarks.find(({ name }) => handle === `point-${name}`);
  }

  save(name) {
    if (name.startsWith("point-")) {
      const { drawing } = this.current();
      const point = this.pointNamed(name);
      this.send({ drawing, landmark: point.name, at: point.at[drawing] });
      return;
    }
    if (name === "pivot") {
      this.send({ pivot: this.player.data.track.pivot });
      return;
    }
    if (name === "left" || name === "right") {
      this.send({ ground: this.ends() });
      return;
    }
    const { drawing, shape } = this.current();
    const { x, y, major, minor, angle } = shape;
    this.send({ drawing, ellipse: { x, y, major, minor, angle: turned(angle) } });
  }

  /** Keep all points of the drawing that shows, as they lie. */
  figure() {
    const { drawing } = this.current();
    const named = (this.player.data.landmarks || []).filter(({ at }) => at[drawing]);
    this.send({ drawing, points: Object.fromEntries(named.map(({ name, at }) => [name, at[drawing]])) });
  }

  /** Near and far were taken for each other, from one frame to another; where none is given, on the one that shows. */
  turn() {
    const here = this.player.clock.frame;
    const [first, last] = ["turn-first", "turn-last"].map((name) => Number(document.querySelector(`[name="${name}"]`)?.value) || here);
    this.send({ turn: [Math.min(first, last), Math.max(first, last)] });
  }

  /** To the next drawing in which a person should look. */
  nextUnsure() {
    const { clip, unsure } = this.player.data;
    const starts = clip.exposures.filter((e) => unsure.includes(e.drawing)).map((e) => e.first_frame);
    const next = starts.find((frame) => frame > this.player.clock.frame) ?? starts[0];
    if (next) this.player.clock.goTo(next);
  }

  undo() {
    this.send({ undo: true });
  }

  takeBack() {
    this.send({ drawing: this.current().drawing, ellipse: null });
  }

  stillBack() {
    this.send({ [this.player.data.fixture]: null });
  }

  again() {
    this.send({ again: true });
  }

  send(place) {
    window.htmx.ajax("POST", this.url, { target: this.into, swap: "outerHTML", values: { place: JSON.stringify(place) } });
  }

  refreshed() {
    if (this.player.refresh()) this.draw();
  }
}
