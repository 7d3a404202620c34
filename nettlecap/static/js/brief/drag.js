// Taking hold of something in an SVG by pointer or by arrow keys.

const STEP = 1;
const LEAP = 10;
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** `moved(x, y)` in the SVG's own units while it is dragged; `ended()` once it is let go. `place()` tells where it is. */
export function draggable(element, { place, moved, ended, step = STEP }) {
  element.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    event.stopPropagation();
    element.focus({ preventScroll: true });
    const svg = element.ownerSVGElement;
    const from = inside(svg, event);
    const [x, y] = place();
    const follow = (moving) => {
      const to = inside(svg, moving);
      moved(x + to.x - from.x, y + to.y - from.y);
    };
    const stop = () => {
      window.removeEventListener("pointermove", follow);
      window.removeEventListener("pointerup", stop);
      window.removeEventListener("pointercancel", stop);
      ended();
    };
    window.addEventListener("pointermove", follow);
    window.addEventListener("pointerup", stop);
    window.addEventListener("pointercancel", stop);
  });
  element.addEventListener("keydown", (event) => {
    const way = ARROWS[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const [x, y] = place();
    const far = step * (event.shiftKey ? LEAP : 1);
    moved(x + way[0] * far, y + way[1] * far);
    ended();
  });
}

function inside(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
}
