// An SVG element with its attributes and text.
const NS = "http://www.w3.org/2000/svg";

export function element(name, attributes, text) {
  const made = document.createElementNS(NS, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  if (text !== undefined) made.textContent = text;
  return made;
}
