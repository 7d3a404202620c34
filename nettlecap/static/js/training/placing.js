// One drawing that is put where it belongs: dragged, or moved with the arrow keys.

import { ellipseAttributes, pointsAttribute } from "../geometry.js";

const SVG = "http://www.w3.org/2000/svg";
const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const NEAR_PX = 1;
const FAR_PX = 8;

export class Placing {
  constructor(player, form) {
    this.player = player;
    this.form = form;
    this.told = JSON.parse(document.getElementById("handle-data").textContent);
    this.begins = { x: this.told.x, y: this.told.y };
    this.at = { ...this.begins };
    this.box = player.element.querySelector("[data-frame-box]");
    this.layer = document.createElementNS(SVG, "g");
    this.layer.setAttribute("class", "putting");
    player.element.querySelector("[data-overlay]").append(this.layer);
    player.clock.goTo(this.told.frame);
    if (form) this.listen();
    this.paint();
  }

  listen() {
    let held = false;
    this.box.addEventListener("pointerdown", (event) => {
      held = true;
      this.box.setPointerCapture(event.pointerId);
      this.moveTo(event);
    });
    this.box.addEventListener("pointermove", (event) => {
      if (held) this.moveTo(event);
    });
    this.box.addEventListener("pointerup", () => { held = false; });
  }

  moveTo(event) {
    const [x, y] = this.player.view.place(event, this.box.getBoundingClientRect());
    this.at = { x, y };
    this.paint();
  }

  /** Move by an arrow key; whether it was one. */
  key(event) {
    const way = this.form ? WAYS[event.key] : null;
    if (!way) return false;
    event.preventDefault();
    const by = event.shiftKey ? FAR_PX : NEAR_PX;
    this.at = { x: this.at.x + way[0] * by, y: this.at.y + way[1] * by };
    this.paint();
    return true;
  }

  putBack() {
    this.at = { ...this.begins };
    this.paint();
  }

  paint() {
    const { told, at } = this;
    this.layer.replaceChildren();
    if (told.pivot) this.add("polyline", { class: "o-putting", points: pointsAttribute([told.pivot, [at.x, at.y]]) });
    this.add("ellipse", { class: "o-putting", ...ellipseAttributes({ ...told, ...at }) });
    if (told.belongs) this.add("ellipse", { class: "o-belongs", ...ellipseAttributes(told.belongs) });
    if (!this.form) return;
    this.form.querySelector("[name=x]").value = at.x.toFixed(2);
    this.form.querySelector("[name=y]").value = at.y.toFixed(2);
  }

  add(kind, attributes) {
    const element = document.createElementNS(SVG, kind);
    Object.entries(attributes).forEach(([name, value]) => element.setAttribute(name, value));
    this.layer.append(element);
  }
}
