// What somebody can do from the page, each with the token of this session.
import { counted, element, isFahrenheit, limit, shown, span, unitName } from "/units.js";

let token = null;
export const setToken = is => { token = is; };

/** @return the device's answer, or what was wrong */
export async function ask(device, kind, body) {
  try {
    const reply = await fetch(`/api/devices/${device.about.id}/${kind}`, {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-Zorilla-Token": token },
      body: JSON.stringify(body),
    });
    const said = await reply.json();
    return said.answer ?? said.error ?? `it answered ${reply.status}`;
  } catch {
    return "zorilla live does not answer";
  }
}

async function say(device, commands, problem) {
  problem.textContent = "";
  for (const command of commands) {
    const answer = await ask(device, "command", { command });
    if (answer !== "ok") {
      problem.textContent = answer;
      return;
    }
  }
}

const minutes = [1, 5, 15, 30, 60, 240, 1440];

/** The buttons below an output that can be taken over. */
export function takeOver(device, output, isByHand, into) {
  if (output.says.length === 0 && !isByHand) {
    into.replaceChildren();
    return;
  }
  const problem = element("span", { class: "problem", role: "alert" });
  if (isByHand) {
    const parts = [element("span", { class: "by" })];
    if (output.says.length > 0)
      parts.push(element("button", {
        type: "button", class: "back", "aria-label": `Hand ${output.name} back`,
        onclick: () => say(device, output.says.map(one => `clear ${one.name}`), problem),
      }, "Hand back"));
    into.replaceChildren(...parts, problem);
    return;
  }
  const which = element("select", { "aria-label": "What to say" },
    ...output.says.map((one, i) => element("option", { value: i }, one.name)));
  const value = element("input", { type: "number", step: "any", "aria-label": "Value" });
  const time = element("select", { "aria-label": "For how long" });
  const fill = () => {
    const one = output.says[which.value];
    value.hidden = one.switch;
    value.placeholder = one.unit;
    const possible = minutes.filter(m => m * 60000 <= one.longest);
    time.replaceChildren(...(possible.length ? possible : [one.longest / 60000]).map(m =>
      element("option", { value: m }, span(m * 60000))));
    time.value = possible.includes(15) ? 15 : possible[possible.length - 1];
  };
  which.addEventListener("change", fill);
  which.hidden = output.says.length < 2;
  fill();
  const form = element("form", { class: "act", hidden: "" }, which, value, time,
    element("button", { type: "submit" }, "On"),
    element("button", { type: "button", onclick: () => open(false) }, "Cancel"));
  form.addEventListener("submit", event => {
    event.preventDefault();
    const one = output.says[which.value];
    const what = one.switch ? "on" : value.value;
    if (what !== "") say(device, [`set ${one.name} ${what} for ${time.value} min`], problem).then(() => open(false));
  });
  const button = element("button", {
    type: "button", class: "take", "aria-label": `Take ${output.name} over`, onclick: () => open(true),
  }, "Take over");
  const open = yes => { form.hidden = !yes; button.hidden = yes; };
  into.replaceChildren(button, form, problem);
}

/** What can be said to the whole device: to try its outputs, and to shut down. */
export function showWhole(device, into) {
  const problem = element("span", { class: "problem", role: "alert" });
  const button = (name, does, says) =>
    element("button", { type: "button", "data-says": name, onclick: () => say(device, [says()], problem) }, does);
  const is = name => device.parts["source." + name]?.value > 0;
  into.replaceChildren(
    ...device.about.tests.map(name => button(name, "Self-test", () => `set ${name} on for 2 s`)),
    ...device.about.shutdowns.map(name => button(name, is(name) ? "Come back" : "Shut down",
      () => is(name) ? `clear ${name}` : `set ${name} on`)));
  if (into.children.length > 0) into.append(problem);
}
export function updateWhole(device, into) {
  for (const name of device.about.shutdowns) {
    const button = into.querySelector(`[data-says="${CSS.escape(name)}"]`);
    if (button) button.textContent = device.parts["source." + name]?.value > 0 ? "Come back" : "Shut down";
  }
}

/** The settings of a device, each with its limits. */
export function showSettings(device, into) {
  into.replaceChildren(...device.about.settings.map(one => {
    const id = "setting-" + one.name;
    const input = element("input", { id, type: "number", step: "any", "aria-describedby": id + "-limits" });
    const problem = element("small", { class: "problem", role: "alert" });
    const form = element("form", { class: "setting", "data-name": one.name },
      element("label", { for: id }, one.name), input, element("span", {}, unitName(one.unit)),
      element("button", { type: "submit" }, "Set"),
      element("small", { id: id + "-limits" },
        `${limit(one.least, one)} to ${limit(one.most, one)}; usually ${limit(one.usual, one)}`),
      problem);
    form.addEventListener("submit", async event => {
      event.preventDefault();
      if (input.value === "") return;
      const unit = isFahrenheit() && unitName(one.unit) === "°F" ? (one.unit === "degC" ? "degF" : null) : one.unit;
      const value = unit === null ? `${counted(Number(input.value), one.unit)} ${one.unit}` : `${input.value} ${unit}`;
      const answer = await ask(device, "setting", { name: one.name, value });
      problem.textContent = answer === "ok" ? "" : answer;
      if (answer === "ok") input.blur();
    });
    return form;
  }));
  updateSettings(device, into);
}

export function updateSettings(device, into) {
  for (const one of device.about.settings) {
    const state = device.parts["source." + one.name];
    const input = into.querySelector(`[data-name="${CSS.escape(one.name)}"] input`);
    // What somebody is typing is theirs.
    if (input && document.activeElement !== input && state?.value !== undefined)
      input.value = Number(shown(state.value, one.unit).toFixed(3));
  }
}
