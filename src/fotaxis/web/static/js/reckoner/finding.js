// Finding by typing: every typed word begins a word of a calculation's name, group, or what it is also called.
const words = (text) => text.toLowerCase().split(/[^\p{L}\p{N}.]+/u).filter(Boolean);

/** @param {any[]} calculations @param {string} typed */
export function found(calculations, typed) {
  const asked = words(typed);
  const scored = calculations.map((one, i) => {
    const named = words(one.name), all = [...named, ...words(one.also), ...words(one.group), ...words(one.key), ...one.asks.flatMap((ask) => words(ask.words))];
    if (!asked.every((part) => all.some((word) => word.startsWith(part)))) return null;
    const first = asked.every((part) => [...named, ...words(one.also)].some((word) => word.startsWith(part))) ? 0 : 1;
    return { one, rank: first * 1000 + i };
  });
  return scored.filter(Boolean).sort((a, b) => a.rank - b.rank).map(({ one }) => one);
}
