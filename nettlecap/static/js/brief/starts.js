// Starting from one of the exercise's own motions, an earlier brief, a blank, or a file.

export function listenForStarts(form, values) {
  form.querySelectorAll("[data-start]").forEach((button) => {
    button.addEventListener("click", () => take(form, values, button.dataset.start));
  });
  const earlier = form.querySelector("[data-start-earlier]");
  earlier?.addEventListener("change", () => {
    if (earlier.value) take(form, values, earlier.value);
    earlier.value = "";
  });
  form.querySelector("[data-import]")?.addEventListener("change", (event) => {
    form.dataset.leaving = "1";
    event.target.form.requestSubmit();
  });
}

async function take(form, values, from) {
  const size = { width: values.number("canvas_width") || null, height: values.number("canvas_height") || null };
  const query = new URLSearchParams({ from, exercise: values.get("exercise"), canvas: JSON.stringify(size.width && size.height ? size : null) });
  const answer = await fetch(`${form.dataset.starts}?${query}`);
  if (!answer.ok) return;
  const found = await answer.json();
  delete found.due_at;
  values.set(from.startsWith("own:") ? itsMotion(form, found) : found);
  values.keep();
}

// One of the exercise's own changes what moves and how, and leaves the rest of the brief as it is.
function itsMotion(form, found) {
  const names = form.dataset.motion.split(" ");
  return Object.fromEntries(names.map((name) => [name, found[name]]));
}
