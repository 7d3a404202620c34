// What somebody is typing into the mark column stays, with its caret, when something else draws the column anew.

const COLUMN = "#mark-column";
const FIELDS = ["#note-box[open]", "#remark"];

export function keepTyped() {
  let kept = [];
  document.addEventListener("htmx:beforeSwap", (event) => {
    const { shouldSwap, target, requestConfig } = event.detail;
    kept = shouldSwap && target.matches(COLUMN) ? partsOf(target, requestConfig.elt) : [];
  });
  document.addEventListener("htmx:afterSwap", () => {
    kept = kept.filter(putBack);
  });
  document.addEventListener("htmx:afterSettle", () => {
    // Only now does the page listen to it: what is saved while it is typed has still to be.
    kept.forEach(({ part }) => part.dispatchEvent(new Event("kept")));
    kept = [];
  });
}

/** The fields that are in use, without those that were sent with this; where the caret is. */
function partsOf(column, sent) {
  const caret = document.activeElement;
  const parts = FIELDS.map((field) => column.querySelector(field));
  return parts
    .filter((part) => part && !part.contains(sent) && !sent.contains(part))
    .map((part) => ({ part, caret: part.contains(caret) ? { field: caret, at: [caret.selectionStart, caret.selectionEnd] } : null }));
}

/** Put a field in the place of the one that was drawn; whether there is one, and what was typed is not in it. */
function putBack({ part, caret }) {
  const drawn = document.getElementById(part.id);
  // More than one part of the page may be swapped at once, each of which says so.
  if (drawn === part) return true;
  if (!drawn || (part.matches("textarea") && drawn.value === part.value)) return false;
  drawn.replaceWith(part);
  caret?.field.focus();
  // Only fields of text have a caret.
  if (Number.isInteger(caret?.at[0])) caret.field.setSelectionRange(...caret.at);
  return true;
}
