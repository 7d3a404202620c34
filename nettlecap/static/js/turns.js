// One change to the mark column at a time, in the order in which they were made. A change made while another is on its
// way waits for it, and the column is only drawn anew once none waits: so nothing that was pressed or typed is lost.

const COLUMN = "#mark-column";
let waiting = [];
let onItsWay = null;

export function takeTurns() {
  document.addEventListener("htmx:confirm", (event) => {
    if (!onItsWay || !event.target.closest(COLUMN)) return;
    event.preventDefault();
    if (!isTyped(event.target) || !goesAlong(event.target)) waiting.push(event.detail);
  });
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.target.closest(COLUMN)) onItsWay = event.detail.requestConfig.elt;
  });
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.requestConfig.elt !== onItsWay) return;
    if (!waiting.every((change) => isTyped(change.elt))) event.detail.shouldSwap = false;
    // What was typed stays over the drawing anew, and is sent from there.
    else if (event.detail.shouldSwap) waiting = [];
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.requestConfig.elt !== onItsWay) return;
    onItsWay = null;
    const next = waiting.shift();
    // A change that asks “are you sure” still has to ask.
    next?.issueRequest(!next.question);
  });
}

/** Whether a form that is on its way, or waits, sends this field in any case. */
function goesAlong(field) {
  return [onItsWay, ...waiting.map((change) => change.elt)].some((sent) => sent !== field && sent === field.form);
}

function isTyped(element) {
  return element.matches("textarea");
}
