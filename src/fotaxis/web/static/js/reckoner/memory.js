// What was typed last, by shot and calculation, in this browser; a private window remembers for the page alone.
const PREFIX = "fotaxis-reckoner:";
const held = new Map();

function read(name) {
  try { return JSON.parse(localStorage.getItem(PREFIX + name) ?? "null") ?? held.get(name) ?? {}; } catch { return held.get(name) ?? {}; }
}

function write(name, value) {
  held.set(name, value);
  try { localStorage.setItem(PREFIX + name, JSON.stringify(value)); } catch { /* full, or private */ }
}

export class Memory {
  /** @param {string} shot its number, '' for none */
  constructor(shot) { this.shot = shot; }

  /** @returns {{texts: Record<string, string>, unknown: string}} */
  of(key) { return { texts: {}, unknown: "", ...read(this.shot)[key] }; }

  keep(key, value) { write(this.shot, { ...read(this.shot), [key]: value, last: key }); }

  get last() { return read(this.shot).last ?? ""; }

  get about() { return read(`${this.shot} about`); }
  set about(value) { write(`${this.shot} about`, value); }
}
