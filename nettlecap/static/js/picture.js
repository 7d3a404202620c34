// Draws the frame: the drawing that shows, and its neighbours faintly where their shapes were measured.

import { drawingAt } from "./exposures.js";
import { ellipseAttributes } from "./geometry.js";

const NEAREST = 0.34;
const FADES = 0.62;
const GROWN = 5;
// Mean lightness (of 255) below which a picture counts as dark.
const DARK = 95;
// How strongly another clip is laid over this one.
const OVER = 0.5;

export class Picture {
  constructor(canvas, overlay, player) {
    this.canvas = canvas;
    this.overlay = overlay;
    this.player = player;
    const { width, height } = player.data.clip;
    canvas.width = width;
    canvas.height = height;
    this.context = canvas.getContext("2d");
  }

  draw() {
    const { clock, data, drawings, layers } = this.player;
    const { width, height, exposures } = data.clip;
    const current = drawings.get(drawingAt(exposures, clock.frame));
    const { view } = this.player;
    this.overlay.setAttribute("viewBox", view.viewBox);
    view.apply(this.context);
    this.context.clearRect(0, 0, width, height);
    if (!current) return;
    const { companion } = this.player;
    if (companion?.instead) {
      companion.paint(this.context);
      return;
    }
    this.lay(current, drawingAt(exposures, clock.frame));
    this.tellDark();
    if (companion?.over) companion.paint(this.context, OVER);
    if (!layers.neighbours || clock.playing) return;
    const beside = this.player.stepping.neighbours(clock.frame);
    beside.pinned.forEach((number) => this.faintly(number, NEAREST));
    beside.before.forEach((number, i) => this.faintly(number, NEAREST * FADES ** i));
    beside.after.forEach((number, i) => this.faintly(number, NEAREST * FADES ** i));
  }

  /** Ink over a dark picture has to be light; told once, from the first drawing. */
  tellDark() {
    if (this.told) return;
    this.told = true;
    const small = new OffscreenCanvas(16, 9).getContext("2d");
    small.drawImage(this.context.canvas, 0, 0, 16, 9);
    const { data } = small.getImageData(0, 0, 16, 9);
    let light = 0;
    for (let i = 0; i < data.length; i += 4) {
      // Where nothing is drawn, the page's paper shows.
      const [red, green, blue] = [0, 1, 2].map((part) => (data[i + 3] === 0 ? 255 : data[i + part]));
      light += 0.299 * red + 0.587 * green + 0.114 * blue;
    }
    this.overlay.classList.toggle("on-dark", light / (data.length / 4) < DARK);
  }

  /** Paper that lay askew under the camera is laid as the first sheet lies, where the measures are. */
  lay(picture, number) {
    this.layIn(this.context, picture, number);
  }

  layIn(context, picture, number) {
    const { data } = this.player;
    layShifted(context, picture, data.track.shifts?.[number - 1], data.clip);
  }

  /** Only the measured shape of a neighbour, so that it shows on any paper. */
  faintly(number, strength) {
    const shape = this.player.shapes.get(number);
    const picture = this.player.drawings.get(number);
    if (!shape || !picture) return;
    const { context } = this;
    const { cx, cy, rx, ry } = ellipseAttributes(shape);
    context.save();
    context.beginPath();
    context.ellipse(cx, cy, rx + GROWN, ry + GROWN, (-shape.angle * Math.PI) / 180, 0, 2 * Math.PI);
    context.clip();
    context.globalAlpha = strength;
    this.lay(picture, number);
    context.restore();
  }
}

/** Draw a picture of a clip of a size as a shift (px right, px down, degrees) undone. */
export function layShifted(context, picture, shift, { width, height }) {
  if (!shift || shift.every((part) => part === 0)) {
    context.drawImage(picture, 0, 0);
    return;
  }
  const [x, y, turn] = shift;
  context.save();
  context.translate(width / 2, height / 2);
  context.rotate((turn * Math.PI) / 180);
  context.translate(-width / 2 - x, -height / 2 - y);
  context.drawImage(picture, 0, 0);
  context.restore();
}
