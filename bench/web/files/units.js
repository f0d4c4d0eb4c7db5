// Values and texts as a person wants to read them: in degrees Celsius or Fahrenheit.

let fahrenheit = localStorage.getItem("unit") === "F";
export const isFahrenheit = () => fahrenheit;
export function setFahrenheit(yes, keep) {
  fahrenheit = yes;
  if (keep) localStorage.setItem("unit", yes ? "F" : "C");
}
export const isChosen = () => localStorage.getItem("unit") !== null;

const isDifference = unit => /^(K|degC\/)/.test(unit);

/** A value of a unit as it is counted, in the unit that is shown. */
export function shown(value, unit) {
  if (!fahrenheit || value === null || value === undefined) return value;
  return unit === "degC" ? value * 1.8 + 32 : isDifference(unit) ? value * 1.8 : value;
}
/** And back. */
export function counted(value, unit) {
  if (!fahrenheit) return value;
  return unit === "degC" ? (value - 32) / 1.8 : isDifference(unit) ? value / 1.8 : value;
}
export function unitName(unit) {
  if (fahrenheit && unit === "degC") return "°F";
  if (fahrenheit && isDifference(unit)) return "°F" + unit.replace(/^(K|degC)/, "");
  return unit.replace("degC", "°C");
}
/** A value of a part: what it is counted in, and with how many digits. */
export function quantity(value, part) {
  const is = shown(value, part.unit);
  return `${is.toFixed(Math.abs(is) >= 1000 ? 0 : part.digits)} ${unitName(part.unit)}`;
}
/** The same, with no more digits than it needs. */
export function limit(value, part) {
  return `${Number(shown(value, part.unit).toFixed(part.digits))} ${unitName(part.unit)}`;
}
/** A name that may be broken where its words end. */
export function breakable(name) {
  return name.split(/(?<=[._])/).flatMap((word, i) => i ? [document.createElement("wbr"), word] : [word]);
}
/** A sentence of the desk. In it, degC always is a temperature, and K a difference of two. */
export function sentence(text) {
  if (!fahrenheit) return text.replace(/\bdegC\b/g, "°C").replace(/\bdegF\b/g, "°F");
  return text.replace(/(-?\d[\d,]*(?:\.\d+)?) (degC|K)(\/min)?(?![\w%])/g, (all, number, unit, rest) => {
    const value = Number(number.replace(/,/g, ""));
    const places = (number.split(".")[1] || "").length;
    const is = unit === "degC" && !rest ? value * 1.8 + 32 : value * 1.8;
    return `${is.toFixed(Math.max(places, 1))} °F${rest || ""}`;
  }).replace(/\bdegF\b/g, "°F");
}
/** A span of time by its two largest parts. */
export function span(milliseconds) {
  const seconds = Math.max(0, Math.floor(milliseconds / 1000));
  const parts = [[86400, "d"], [3600, "h"], [60, "min"], [1, "s"]];
  const first = parts.findIndex(([size]) => seconds >= size);
  if (first < 0) return "0 s";
  let rest = seconds;
  const out = [];
  for (const [size, name] of parts.slice(first, first + 2)) {
    if (Math.floor(rest / size) > 0) out.push(`${Math.floor(rest / size)} ${name}`);
    rest %= size;
  }
  return out.join(" ");
}
export function clock(utc, withDay) {
  const date = new Date(utc);
  const two = number => String(number).padStart(2, "0");
  const time = `${two(date.getHours())}:${two(date.getMinutes())}`;
  return withDay ? `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())} ${time}` : time;
}
/** An element; what comes from a device or a file is only ever its text. */
export function element(name, attributes = {}, ...inside) {
  const out = document.createElement(name);
  for (const [key, value] of Object.entries(attributes))
    if (key.startsWith("on")) out.addEventListener(key.slice(2), value);
    else if (value !== null && value !== undefined) out.setAttribute(key, value);
  out.append(...inside);
  return out;
}
