// What part of the frame shows: all of it, or a closer look at a finding or at wherever the wheel, two fingers or a drag
// lead. Knows only sizes and places; the picture and the overlays ask it.

const CLOSEST = 8;
const FRAMED_CLOSEST = 3;
const WORTH_IT = 1.25;
const STEP = 1.2;
const KEPT = "nettlecap-close-up";

export class View {
  constructor({ width, height, changed = () => {} }) {
    this.width = width;
    this.height = height;
    this.changed = changed;
    this.zoom = 1;
    this.x = 0;
    this.y = 0;
    // A view that was framed for a finding gives way when the clip plays; one that a person chose stays.
    this.framed = false;
  }

  get whole() {
    return this.zoom === 1;
  }

  get viewBox() {
    return `${this.x} ${this.y} ${this.width / this.zoom} ${this.height / this.zoom}`;
  }

  showAll() {
    this.set(1, 0, 0, false);
  }

  /** As close to a box (left, top, right, bottom in px of the frame) as shows all of it; all where that is no gain. */
  frame(box) {
    const fits = Math.min(this.width / (box.right - box.left), this.height / (box.bottom - box.top));
    const zoom = Math.min(FRAMED_CLOSEST, fits);
    if (zoom < WORTH_IT) {
      this.showAll();
      return;
    }
    const [cx, cy] = [(box.left + box.right) / 2, (box.top + box.bottom) / 2];
    this.set(zoom, cx - this.width / zoom / 2, cy - this.height / zoom / 2, true);
  }

  /** Closer or farther, while a place of the frame stays where it is on the screen. */
  zoomAt(factor, x, y) {
    const zoom = Math.min(CLOSEST, Math.max(1, this.zoom * factor));
    const stay = this.zoom / zoom;
    this.set(zoom, x - (x - this.x) * stay, y - (y - this.y) * stay, false);
  }

  pan(dx, dy) {
    this.set(this.zoom, this.x - dx, this.y - dy, this.framed);
  }

  set(zoom, x, y, framed) {
    this.zoom = zoom;
    this.x = Math.min(this.width * (1 - 1 / zoom), Math.max(0, x));
    this.y = Math.min(this.height * (1 - 1 / zoom), Math.max(0, y));
    this.framed = framed;
    this.changed();
  }

  /** Have a canvas of the frame's size drawn as it shows. */
  apply(context) {
    context.setTransform(this.zoom, 0, 0, this.zoom, -this.x * this.zoom, -this.y * this.zoom);
    // So close, each pixel is worth seeing as it is.
    context.imageSmoothingEnabled = this.zoom < CLOSEST / 2;
  }

  /** Where in the frame a pointer is, px; the first pixel's centre is 0. `box` is the frame's place on the screen. */
  place(event, box) {
    return [
      this.x + ((event.clientX - box.left) / box.width) * (this.width / this.zoom) - 0.5,
      this.y + ((event.clientY - box.top) / box.height) * (this.height / this.zoom) - 0.5,
    ];
  }
}

/** Lets a person look closer: the wheel, two fingers, or a drag while close; and whether findings are framed. */
export class Looking {
  constructor(player) {
    this.player = player;
    this.view = player.view;
    this.close = localStorage.getItem(KEPT) !== "off";
    this.fingers = new Map();
    const box = player.element.querySelector("[data-frame-box]");
    this.box = box;
    box.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
    box.addEventListener("pointerdown", (event) => this.down(event));
    box.addEventListener("pointermove", (event) => this.move(event));
    ["pointerup", "pointercancel", "pointerleave"].forEach((kind) => {
      box.addEventListener(kind, (event) => this.fingers.delete(event.pointerId));
    });
    player.clock.addEventListener("state", () => {
      if (player.clock.playing && this.view.framed) this.view.showAll();
    });
    this.paint();
  }

  /** All of the frame, or close to what is chosen, or else to what moves; what was chosen last stays so. */
  toggle() {
    this.close = this.view.whole;
    localStorage.setItem(KEPT, this.close ? "on" : "off");
    if (this.close) this.view.frame(this.player.boxOfInterest());
    else this.view.showAll();
    this.paint();
  }

  /** Frame a finding that was chosen, unless the person would rather see all. */
  onFinding() {
    if (this.close) this.view.frame(this.player.boxOfInterest());
  }

  wheel(event) {
    // On a page that scrolls, the wheel scrolls.
    if (!document.body.classList.contains("desk")) return;
    event.preventDefault();
    const [x, y] = this.at(event);
    this.view.zoomAt(STEP ** (-Math.sign(event.deltaY)), x, y);
    this.paint();
  }

  down(event) {
    this.fingers.set(event.pointerId, event);
  }

  move(event) {
    const before = this.fingers.get(event.pointerId);
    if (!before) return;
    if (this.fingers.size === 2) this.pinch(event, before);
    else if (!this.player.tool && !this.view.whole && !event.target.dataset.handle) this.drag(event, before);
    this.fingers.set(event.pointerId, event);
  }

  drag(event, before) {
    const [x, y] = this.at(event);
    const [wasX, wasY] = this.at(before);
    this.view.pan(x - wasX, y - wasY);
  }

  pinch(event, before) {
    const other = [...this.fingers.values()].find((finger) => finger.pointerId !== event.pointerId);
    const apart = (finger) => Math.hypot(finger.clientX - other.clientX, finger.clientY - other.clientY) || 1;
    const [x, y] = this.at(other);
    this.view.zoomAt(apart(event) / apart(before), x, y);
    this.paint();
  }

  at(event) {
    return this.view.place(event, this.box.getBoundingClientRect());
  }

  paint() {
    this.player.pressed("close-up", !this.view.whole);
  }
}
