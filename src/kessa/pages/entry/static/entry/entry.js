// The sheet by keyboard: Enter goes down, a new line comes by itself, and what comes of a line shows while
// it is typed.
import { csrfToken } from "../bench/post.js";
import { find, findAll } from "../ui/dom.js";

const form = find("#sheet");
const lines = find("#lines");
const asked = new Map(); // by line: the timer that asks for its values
const SOON_MS = 250;

const lineOf = (field) => field.closest("[data-line]");

function addLine() {
  const last = lines.lastElementChild;
  const number = Number(last?.dataset.line ?? -1) + 1;
  const line = find("#line").content.firstElementChild.cloneNode(true);
  line.dataset.line = number;
  for (const field of findAll("[name]", line)) {
    field.name = field.name.replace(/-0(?=-|$)/, `-${number}`);
    if (field.name.startsWith("point-") && last) field.value = find("select", last).value;
  }
  lines.append(line);
  return line;
}

function down(field) {
  const row = lineOf(field);
  const at = [...row.cells].indexOf(field.closest("td"));
  const next = row.nextElementSibling ?? addLine();
  find("input, select", next.cells[at]).focus();
}

form.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || event.target.tagName === "BUTTON" || event.ctrlKey) return;
  event.preventDefault();
  down(event.target);
});

form.addEventListener("input", ({ target }) => {
  const line = lineOf(target);
  if (!line || !target.matches("[data-cell]")) return;
  clearTimeout(asked.get(line));
  asked.set(
    line,
    setTimeout(() => ask(line), SOON_MS),
  );
});

async function ask(line) {
  const typed = new URLSearchParams();
  for (const field of findAll("[name]", line)) typed.append(field.name, field.value);
  try {
    const answer = await fetch(form.dataset.preview, {
      method: "POST",
      headers: { "X-CSRFToken": csrfToken() },
      body: typed,
    });
    if (!answer.ok) return;
    const { cells } = await answer.json();
    for (const [name, { said, wrong }] of Object.entries(cells)) paint(line, name, said, wrong);
  } catch {
    // Without a network the values show when the sheet is saved.
  }
}

function paint(line, name, said, wrong) {
  const field = find(`[name="${CSS.escape(name)}"]`, line);
  const cell = field.closest("td");
  find(".cell-said", cell).textContent = said;
  find(".cell-wrong", cell).textContent = wrong;
  field.setAttribute("aria-invalid", String(Boolean(wrong)));
}

const more = find("#more-lines");
more.hidden = false;
more.addEventListener("click", () => find("input", addLine()).focus());
