// The present lights, powers and exposure as one more capture of the shot.
import { getJson, post } from "../api.js";
import { $ } from "../dom.js";

export function keepCapture(store) {
  return store.enqueue(async () => {
    const kept = await post(store.addresses.captures, {});
    $("captures-link").textContent = `Captures ${kept.count}`;
    const { width, height, selected, unit } = store.view();
    const query = new URLSearchParams({ width: String(width), height: String(height), selected, unit });
    return { ...await getJson(`${store.addresses.state}?${query}`), note: `Kept as capture ${kept.count}: ${kept.words}.` };
  });
}
