// Draws what was measured over the picture, as SVG in the clip's coordinates.

import { drawingAt } from "./exposures.js";
import { ellipseAttributes, pointsAttribute, tickAcross } from "./geometry.js";

const SVG = "http://www.w3.org/2000/svg";
const FADES = 0.72;
// Marks that tell how a drawing belongs.
const EACH = new Set(["hung", "lines"]);
// A ghost stands for the drawing that shows when it is at most so many frames older.
const MOST_BEHIND = 1;

export class Overlays {
  constructor(overlay, player) {
    this.overlay = overlay;
    this.player = player;
    this.still = group(overlay, "still");
    this.moving = group(overlay, "moving");
    this.strokes = group(overlay, "strokes");
    this.drawStill();
    player.hear(document, "htmx:afterSettle", () => this.drawStrokes());
  }

  /** What does not change from frame to frame. */
  drawStill() {
    const { data, layers } = this.player;
    this.still.replaceChildren();
    const ground = data.track.ground;
    if (layers.ground && ground) {
      add(this.still, "polyline", {
        class: ground.drawn ? "o-ground" : "o-ground inferred",
        points: pointsAttribute([[-0.5, ground.y_left], [data.clip.width - 0.5, ground.y_right]]),
      });
    }
    if (layers.ground && data.still) add(this.still, "polyline", { class: "o-ground inferred", points: pointsAttribute(data.still) });
    if (layers.ground && data.track.pivot) {
      const [cx, cy] = data.track.pivot;
      add(this.still, "circle", { class: "o-pivot", cx: cx + 0.5, cy: cy + 0.5, r: data.clip.width / 160 });
    }
    if (layers.grid) this.drawGrid();
    if (layers.path) this.drawPath();
    if (layers.arcs) {
      data.arcs.forEach((arc) => add(this.still, "polyline", { class: "o-arc", points: pointsAttribute(arc.points) }));
    }
  }

  /** Squares as wide as what moves, or of a tenth of the frame where there is none. */
  drawGrid() {
    const { width, height } = this.player.data.clip;
    const size = this.player.data.size || height / 10;
    for (let x = size; x < width; x += size) {
      add(this.still, "polyline", { class: "o-grid", points: pointsAttribute([[x, 0], [x, height]]) });
    }
    for (let y = size; y < height; y += size) {
      add(this.still, "polyline", { class: "o-grid", points: pointsAttribute([[0, y], [width, y]]) });
    }
  }

  drawPath() {
    const { data, shapes } = this.player;
    const places = data.clip.exposures
      .map((e) => shapes.get(e.drawing))
      .filter((shape) => shape)
      .map((shape) => [shape.x, shape.y]);
    add(this.still, "polyline", { class: "o-path", points: pointsAttribute(places) });
    // Where it hardly leaves its place, ticks would lie over each other.
    if (data.size && reach(places) < data.size / 2) return;
    const length = data.clip.height / 40;
    places.forEach((here, i) => {
      const across = tickAcross(places[Math.max(0, i - 1)], here, places[Math.min(places.length - 1, i + 1)], length);
      add(this.still, "polyline", { class: "o-tick", points: pointsAttribute(across) });
    });
  }

  /** What belongs to the frame that shows. */
  draw() {
    const { clock, companion, data, layers, shapes } = this.player;
    this.moving.replaceChildren();
    // What was measured in this clip says nothing of another that shows in its place.
    this.overlay.classList.toggle("another", Boolean(companion?.instead));
    const exposures = data.clip.exposures;
    if (layers.neighbours && !clock.playing) {
      const beside = this.player.stepping.neighbours(clock.frame);
      beside.pinned.forEach((number) => this.outline(shapes.get(number), "o-pinned"));
      beside.before.forEach((number, i) => this.neighbour(number, "o-before", FADES ** i));
      beside.after.forEach((number, i) => this.neighbour(number, "o-after", FADES ** i));
    }
    if (layers.ground) this.drawMarks();
    if (layers.shape) {
      const shape = shapes.get(drawingAt(exposures, clock.frame));
      this.outline(shape, shape?.source === "placed" ? "o-shape placed" : "o-shape");
      this.drawParts(drawingAt(exposures, clock.frame));
    }
    if (layers.ideal) this.ghost(data.ideal, "o-ideal");
    if (layers.guide) this.ghost(data.guide, "o-guide");
    if (layers.findings && !clock.playing) this.drawFindings();
    this.drawStrokes();
  }

  /** The lines of a drawing's parts; those of neighbours as faint as their outlines. */
  drawParts(drawing, kind = "o-part", strength = 1) {
    const faint = strength < 1 ? { "stroke-opacity": strength.toFixed(2) } : {};
    (this.player.data.parts?.[drawing] || []).forEach((part) => {
      add(this.moving, "polyline", { class: `${kind} ${part.kind}`, ...faint, points: pointsAttribute(part.points) });
    });
  }

  /** Lines that belong to some frames, such as where something stands. */
  drawMarks() {
    const { clock, data } = this.player;
    (data.marks || []).filter((mark) => mark.first <= clock.frame && clock.frame <= mark.last).forEach((mark) => {
      add(this.moving, "polyline", { class: `o-stand ${mark.kind}`, points: pointsAttribute(mark.points) });
    });
  }

  /** What the marker drew over the frame that shows; their shapes are the server's. */
  drawStrokes() {
    const { clock, layers } = this.player;
    const source = document.getElementById("strokes-data");
    if (source !== this.inked) {
      this.inked = source;
      this.ink = source ? JSON.parse(source.textContent) : [];
    }
    this.strokes.replaceChildren();
    if (!layers.drawn) return;
    this.ink.filter((stroke) => stroke.first <= clock.frame && clock.frame <= stroke.last).forEach((stroke) => {
      add(this.strokes, "path", { class: "o-stroke", d: stroke.path, "data-stroke": stroke.id, transform: "translate(0.5 0.5)" });
    });
  }

  neighbour(drawing, kind, strength) {
    this.outline(this.player.shapes.get(drawing), kind, strength);
    this.drawParts(drawing, kind, strength);
  }

  outline(shape, kind, strength = 1) {
    if (!shape) return;
    const faint = strength < 1 ? { "stroke-opacity": strength.toFixed(2) } : {};
    add(this.moving, "ellipse", { class: kind, ...faint, ...ellipseAttributes(shape) });
  }

  /** Where the drawing that shows belongs, with its lines: round and of its own size where no shape is told. */
  ghost(places, kind) {
    const { clock, data } = this.player;
    const here = places.filter((place) => place.frame <= clock.frame).pop();
    const exposure = data.clip.exposures.filter((e) => e.first_frame <= clock.frame).pop();
    if (!here || here.frame < exposure.first_frame - MOST_BEHIND) return;
    const size = data.size;
    this.outline({ major: size, minor: size, angle: 0, ...here }, kind);
    (here.lines || []).forEach((points) => add(this.moving, "polyline", { class: kind, points: pointsAttribute(points) }));
  }

  drawFindings() {
    const { clock, data, chosen } = this.player;
    const begins = data.clip.exposures.findLast((e) => e.first_frame <= clock.frame).first_frame;
    data.findings
      .filter((f) => f.key === chosen || (f.first_frame <= clock.frame && clock.frame <= f.last_frame))
      .forEach((finding) => {
        // How each of several drawings belongs is shown for the one that shows.
        const each = new Set(finding.overlay.filter((mark) => EACH.has(mark.kind)).map((mark) => mark.frame));
        const latest = Math.max(...[...each].filter((frame) => frame <= clock.frame));
        const shows = (mark) => {
          if (mark.kind === "hung") return mark.frame === latest;
          if (mark.kind === "lines" && each.size > 1) return mark.frame === latest && begins <= latest;
          return finding.key === chosen || mark.frame === clock.frame;
        };
        finding.overlay.filter(shows).forEach((mark) => {
          const here = (EACH.has(mark.kind) ? mark.frame === latest && begins <= latest : mark.frame === clock.frame);
          this.mark(mark, finding.principle, here || alone(finding, mark));
        });
      });
  }

  /** A mark of a finding; faintly where it belongs to another drawing than the one that shows. */
  mark(mark, principle, here) {
    if (mark.kind === "place") this.outline(mark, `o-place p-${principle}${here ? "" : " aside"}`);
    if (mark.kind === "path") {
      add(this.moving, "polyline", { class: `o-mend p-${principle}`, points: pointsAttribute(mark.points) });
    }
    if (mark.kind === "point") {
      const r = this.player.data.clip.width / 130;
      add(this.moving, "circle", { class: `o-place p-${principle}${here ? "" : " aside"}`, cx: mark.x + 0.5, cy: mark.y + 0.5, r });
    }
    if (mark.kind === "lines") {
      mark.lines.forEach((points) => {
        add(this.moving, "polyline", { class: `o-place p-${principle}${here ? "" : " aside"}`, points: pointsAttribute(points) });
      });
    }
    if (mark.kind === "hung") {
      add(this.moving, "polyline", { class: `o-place p-${principle}`, points: pointsAttribute(mark.points) });
      mark.points.slice(1).forEach(([x, y]) => {
        add(this.moving, "circle", { class: `o-place p-${principle}`, cx: x + 0.5, cy: y + 0.5, r: this.player.data.clip.width / 200 });
      });
    }
    if (mark.kind === "gap") {
      const ends = [[mark.x1, mark.y1], [mark.x2, mark.y2]];
      add(this.moving, "polyline", { class: `o-gap p-${principle}`, points: pointsAttribute(ends) });
    }
  }
}

/** Whether a mark is the only one of its kind in a finding. */
function alone(finding, mark) {
  return finding.overlay.filter((other) => other.kind === mark.kind).length === 1;
}

/** How far places lie apart, across or down. */
function reach(places) {
  const spans = [0, 1].map((axis) => places.map((place) => place[axis])).map((values) => Math.max(...values) - Math.min(...values));
  return Math.max(...spans);
}

function group(parent, name) {
  return add(parent, "g", { class: name, "aria-hidden": "true" });
}

function add(parent, kind, attributes) {
  const element = document.createElementNS(SVG, kind);
  Object.entries(attributes).forEach(([name, value]) => element.setAttribute(name, value));
  parent.append(element);
  return element;
}
