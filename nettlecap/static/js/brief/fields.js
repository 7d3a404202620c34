// What is wrong with a value, or at odds with the guide, said beside its field.

export function complain(form, errors, notes) {
  form.querySelectorAll("[data-field]").forEach((field) => {
    const name = field.dataset.field;
    const wrong = errors[name] || [];
    // Title and due date are only complained about when the form is sent.
    if (["title", "due_at"].includes(name)) return;
    field.classList.toggle("wrong", wrong.length > 0);
    field.querySelectorAll(".error, .note").forEach((old) => old.remove());
    wrong.forEach((words) => field.append(sentence(`error_${name}`, "error", words)));
    if (notes[name]) field.append(sentence(`note_${name}`, "hint note", notes[name]));
    form.elements.namedItem(name)?.setAttribute?.("aria-invalid", String(wrong.length > 0));
    const group = field.closest("details.group");
    if (group && wrong.length) group.open = true;
  });
}

function sentence(id, kind, words) {
  const line = document.createElement("p");
  line.id = id;
  line.className = kind;
  line.textContent = words;
  return line;
}
