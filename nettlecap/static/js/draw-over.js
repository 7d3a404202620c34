// Drawing over the picture: pen, line, arc through three points, arrow, eraser. A stroke lies on the frames of the drawing
// that shows, or on the range that is marked on the sheet. Strokes are sent in the order in which they are drawn; one
// that could not be sent stays, dashed, and goes with the next.

import { indexAt } from "./exposures.js";
import { arcThrough, pointsAttribute } from "./geometry.js";

const SVG = "http://www.w3.org/2000/svg";
const TOOLS = ["pen", "line", "arc", "arrow", "eraser"];
const KEPT = "nettlecap-pen";
const NIB = 1 / 240;
const SHORTEST = 3;
// How far apart (px of the screen) the eraser looks for strokes between two moves of the pointer.
const ERASER = 4;

export class DrawOver {
  constructor(player) {
    this.player = player;
    this.box = player.element.querySelector("[data-pen]");
    if (!this.box) return;
    this.overlay = player.element.querySelector("[data-overlay]");
    this.told = this.box.querySelector("[data-pen-told]");
    this.group = document.createElementNS(SVG, "g");
    this.overlay.append(this.group);
    this.tool = TOOLS.includes(localStorage.getItem(KEPT)) ? localStorage.getItem(KEPT) : "pen";
    this.points = null;
    this.chord = null;
    this.unsent = [];
    this.sending = null;
    const frame = player.element.querySelector("[data-frame-box]");
    frame.addEventListener("pointerdown", (event) => this.down(event));
    frame.addEventListener("pointermove", (event) => this.move(event));
    frame.addEventListener("pointerup", (event) => this.up(event));
    frame.addEventListener("pointercancel", () => this.drop());
    this.box.addEventListener("click", (event) => this.chosen(event));
    player.element.addEventListener("tool", () => this.paint());
    player.clock.addEventListener("frame", () => this.drop());
    player.hear(window, "online", () => this.send());
    this.paint();
  }

  get on() {
    return this.player.tool === "draw";
  }

  /** Take up the pen, or change it for the next tool; after the last it is laid down. */
  next() {
    if (!this.box) return;
    if (!this.on) {
      this.player.take("draw");
      return;
    }
    const tool = TOOLS[TOOLS.indexOf(this.tool) + 1];
    if (tool) this.choose(tool);
    else {
      this.choose(TOOLS[0]);
      this.leave();
    }
  }

  leave() {
    if (this.box && this.on) this.player.take("draw");
  }

  chosen(event) {
    const tool = event.target.closest("[data-tool]")?.dataset.tool;
    if (tool) this.choose(tool);
  }

  choose(tool) {
    this.tool = tool;
    localStorage.setItem(KEPT, tool);
    this.drop();
    this.paint();
  }

  paint() {
    const { player } = this;
    player.pressed("draw", this.on);
    this.box.hidden = !this.on;
    if (this.on) player.clock.pause();
    else this.drop();
    player.element.dataset.penTool = this.on ? this.tool : "";
    this.box.querySelectorAll("[data-tool]").forEach((button) => {
      button.setAttribute("aria-checked", String(button.dataset.tool === this.tool));
    });
    this.tell();
  }

  /** The frames that a stroke lies on. */
  frames() {
    const { clock, data, range } = this.player;
    if (range) return range;
    const exposure = data.clip.exposures[indexAt(data.clip.exposures, clock.frame)];
    return { first: exposure.first_frame, last: exposure.first_frame + exposure.frames - 1 };
  }

  tell() {
    if (!this.on) return;
    const { first, last } = this.frames();
    const where = first === last ? `frame ${first}` : `frames ${first}–${last}`;
    const how = { arc: this.chord ? "; now its bend" : "; drag from end to end, then its bend", eraser: "; stroke over what is to go" };
    this.told.textContent = `${this.tool === "eraser" ? "Wipe on" : "Draw on"} ${where}${how[this.tool] || ""}`;
  }

  at(event) {
    const [x, y] = this.player.view.place(event, this.overlay.getBoundingClientRect());
    const pressure = event.pointerType === "pen" ? event.pressure : 0.5;
    return [Math.round(x * 10) / 10, Math.round(y * 10) / 10, Math.round(pressure * 1000) / 1000];
  }

  down(event) {
    if (!this.on || event.target.dataset.handle || !event.isPrimary) return;
    event.preventDefault();
    event.currentTarget.setPointerCapture(event.pointerId);
    this.tell();
    if (this.tool === "eraser") this.erase(event);
    else this.points = [this.at(event)];
  }

  move(event) {
    if (!this.on) return;
    if (this.erasing) this.erase(event);
    if (this.chord) this.preview(this.bent(this.at(event)));
    if (!this.points || this.chord) return;
    const events = event.getCoalescedEvents?.() || [];
    const places = (events.length > 0 ? events : [event]).map((one) => this.at(one));
    this.points = this.tool === "pen" ? [...this.points, ...places] : [this.points[0], places.at(-1)];
    this.preview(this.points);
  }

  up(event) {
    this.erasing = null;
    if (!this.points) return;
    if (this.chord) this.finish(this.bent(this.at(event)));
    else if (this.tool === "pen") this.finish(this.points);
    else if (this.points.length < 2 || length(this.points) < SHORTEST) this.drop();
    else if (this.tool === "arc") {
      this.chord = this.points;
      this.points = null;
      this.tell();
    } else this.finish(this.points);
  }

  bent(by) {
    return [this.chord[0], by, this.chord[1]];
  }

  /** What is being drawn, until the server gives its shape. */
  preview(points) {
    this.line?.remove();
    this.line = document.createElementNS(SVG, "path");
    const arc = points.length === 3 && this.chord;
    this.line.setAttribute("class", "o-pen");
    this.line.setAttribute("stroke-width", 0.7 * Math.max(2, this.player.data.clip.width * NIB));
    this.line.setAttribute("transform", arc ? "translate(0.5 0.5)" : "");
    this.line.setAttribute("d", arc ? arcThrough(...points) : `M${pointsAttribute(points).replaceAll(" ", "L")}`);
    this.group.append(this.line);
  }

  drop() {
    this.line?.remove();
    this.line = null;
    this.points = null;
    this.chord = null;
    this.erasing = null;
    if (this.box) this.tell();
  }

  finish(points) {
    this.preview(points);
    const { first, last } = this.frames();
    const values = { tool: this.tool, points: JSON.stringify(points), first_frame: first, last_frame: last };
    this.unsent.push({ url: this.box.dataset.pen, values, line: this.line });
    this.line = null;
    this.drop();
    this.send();
  }

  /** Wipe every stroke between where the eraser was and where it is. */
  erase(event) {
    const from = this.erasing || event;
    this.erasing = event;
    const steps = Math.ceil(Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) / ERASER) || 1;
    for (let step = 1; step <= steps; step += 1) {
      const between = (name) => from[name] + ((event[name] - from[name]) * step) / steps;
      this.wipeAt(between("clientX"), between("clientY"));
    }
    this.send();
  }

  wipeAt(x, y) {
    document.elementsFromPoint(x, y).filter((element) => element.dataset.stroke).forEach((element) => {
      const id = element.dataset.stroke;
      element.remove();
      this.unsent.push({ url: `${this.box.dataset.pen}/${id}/wipe`, values: {}, line: null });
    });
  }

  /** One after the other, so that what comes back last is how things stand. */
  async send() {
    if (this.sending) return;
    this.sending = true;
    while (this.unsent.length > 0) {
      const [next] = this.unsent;
      if (!(await this.post(next))) break;
      this.unsent.shift();
      next.line?.remove();
    }
    this.sending = false;
    this.unsent.forEach(({ line }) => line?.classList.add("unsent"));
  }

  async post({ url, values }) {
    let kept = false;
    const heard = (event) => {
      const { pathInfo, successful, xhr } = event.detail;
      // What the server refuses in words is done with; what never reached it is not.
      if (pathInfo?.requestPath === url) kept = successful || (xhr.status >= 400 && xhr.status < 500);
    };
    document.addEventListener("htmx:afterRequest", heard);
    try {
      await window.htmx.ajax("POST", url, { target: "#mark-column", swap: "outerHTML", values });
    } catch (error) {
      kept = false;
    }
    document.removeEventListener("htmx:afterRequest", heard);
    return kept;
  }
}

function length([one, other]) {
  return Math.hypot(other[0] - one[0], other[1] - one[1]);
}
