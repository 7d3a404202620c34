// Small help with SVG.

const SVG = "http://www.w3.org/2000/svg";

export function make(name, attributes = {}) {
  const element = document.createElementNS(SVG, name);
  Object.entries(attributes).forEach(([key, value]) => element.setAttribute(key, value));
  return element;
}

/** Put a drawing that came as text in place of what is there. */
export function show(place, text) {
  const drawing = new DOMParser().parseFromString(text, "image/svg+xml").documentElement;
  place.replaceChildren(document.importNode(drawing, true));
  return place.firstElementChild;
}
