// Values that mean something only with some others are shown only beside those.

export function showWhen(form, values) {
  const fields = [...form.querySelectorAll("[data-when]")];
  const paint = () => fields.forEach((field) => {
    field.hidden = !field.dataset.when.split(" ").some((one) => holds(form, one));
  });
  values.addEventListener("changed", paint);
  values.addEventListener("restored", paint);
  paint();
}

function holds(form, told) {
  const [name, value] = told.split("=");
  const field = form.elements.namedItem(name);
  // What is not shown itself holds for nothing.
  if (!field || field.closest("[data-when]")?.hidden) return false;
  return (field.type === "checkbox" ? (field.checked ? "on" : "") : field.value) === value;
}
