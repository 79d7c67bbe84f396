// A form of a visit that works without a network: with one it goes to the server as any form; without
// one, or where the sign-in has expired, what was typed is kept on this device and the next page opens.
import { find, findAll } from "../ui/dom.js";
import { Device } from "./visit-acts.js";

const facts = find("#away");
const device = new Device(facts);
device.askForPermission();

for (const form of findAll("form[data-act]"))
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    if (form.dataset.busy) return;
    const button = event.submitter;
    if (!areNumbers(form)) return;
    form.dataset.busy = "yes";
    if (button) button.disabled = true;
    if (await device.isHeard()) {
      if (button?.name) form.append(hidden(button.name, button.value));
      form.submit();
      return;
    }
    await keep(form);
  });

facts.dataset.ready = "yes";

async function keep(form) {
  const { act, next, sample } = form.dataset;
  try {
    const fields = fieldsOf(form);
    await device.keep(act, sample, fields);
    if (act === "taken") localStorage[`kessa-taken-${sample}`] = fields.at;
    location.assign(next);
  } catch {
    delete form.dataset.busy;
    for (const button of findAll("button", form)) button.disabled = false;
    find("#not-kept").hidden = false;
  }
}

// What was typed, by the names of the fields; of a row of ticks all that were ticked.
function fieldsOf(form) {
  const typed = new FormData(form);
  typed.delete("csrfmiddlewaretoken");
  const found = {};
  for (const name of new Set(typed.keys())) {
    const values = typed.getAll(name).map(String);
    const isRow = form.querySelector(`[name="${CSS.escape(name)}"]`)?.type === "checkbox";
    found[name] = isRow ? values : values[0];
  }
  return found;
}

function hidden(name, value) {
  return Object.assign(document.createElement("input"), { type: "hidden", name, value });
}

// Without a network nobody else says that a number is none.
function areNumbers(form) {
  let fine = true;
  for (const field of findAll("input[inputmode=decimal], input[inputmode=numeric]", form)) {
    const isOne = /^\s*(-?\d+([.,]\d+)?)?\s*$/.test(field.value);
    field.setAttribute("aria-invalid", String(!isOne));
    if (!isOne && fine) field.focus();
    fine &&= isOne;
  }
  return fine;
}
