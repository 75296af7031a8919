// Places in the shot document, by the steps that lead there: names, and keys of things in lists.

/** @param {any} from @param {(string | number)[]} path @returns {any} */
export function reach(from, path) {
  let at = from;
  for (const step of path) {
    if (at === null || at === undefined) return undefined;
    at = Array.isArray(at) ? at.find((thing) => thing.key === step) ?? at[Number(step)] : at[step];
  }
  return at;
}
