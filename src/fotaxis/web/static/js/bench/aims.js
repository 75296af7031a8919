// What a thing is aimed at: a place clicked on the frame, the lens, another thing; of a card also the light that it throws there.
import { all, query } from "../dom.js";

const PLACE = "place", LENS = "camera";

export class Aims {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.placing = "";
    this.store.on(["state", "selected"], () => this.show());
  }

  get box() { return this.bench.inspector.box; }

  show() {
    const { store } = this, found = store.thing(), at = this.box.querySelector("[data-aim-at]");
    if (!at || !found) return;
    const { list, thing } = found, { aim } = thing;
    const others = [...store.document.lights, ...store.document.cards].filter(({ key }) => key !== thing.key);
    const choices = [["", "as it is turned"], [LENS, "the lens"], ...others.map(({ key, name }) => [key, name])];
    if (aim?.at === PLACE) choices.push([PLACE, aim.on || "a place"]);
    at.replaceChildren(...choices.map(([value, words]) => new Option(words, value)));
    at.value = aim?.at ?? "";
    at.onchange = () => this.set(at.value ? { ...(at.value === PLACE ? aim : {}), at: at.value, source: aim?.source ?? "" } : null);
    const source = this.box.querySelector("[data-aim-source]");
    if (source) {
      query("select", source).replaceChildren(new Option("nothing: it looks there", ""), ...store.state.lights.map(({ key, number, name }) => new Option(`${number} ${name}`, key)));
      query("select", source).value = aim?.source ?? "";
      query("select", source).onchange = ({ target }) => this.set({ ...aim, source: target.value });
      source.hidden = !aim || list !== "cards";
    }
    for (const button of all("[data-aim-place]", this.box)) {
      button.setAttribute("aria-pressed", String(this.placing === thing.key));
      button.onclick = () => this.place(this.placing ? "" : thing.key);
    }
  }

  set(aim) {
    const { list, thing } = this.store.thing();
    this.store.commit([{ path: [list, thing.key, "aim"], value: aim }], aim ? `Aimed ${thing.name}` : `${thing.name} is aimed no more`);
  }

  place(key) {
    this.placing = key;
    document.body.classList.toggle("placing", Boolean(key));
    this.store.note(key ? "Click where it is to look: on the frame, or in the drawings on a thing, the lens or a place. Escape leaves it." : "");
    this.show();
  }

  // In the drawings: at a thing or the lens by its key, else at a place.
  at(key, place, on) {
    const own = this.placing, aim = this.store.thing(own)?.thing.aim, known = key && this.store.thing(key);
    if (key === own) return;
    this.place("");
    if (this.store.selected !== own) this.store.select(own);
    const rounded = Object.fromEntries(Object.entries(place).map(([axis, value]) => [axis, Math.round(value * 10) / 10]));
    this.set(known && known.list !== "others" ? { at: key, source: aim?.source ?? "" } : { at: PLACE, ...rounded, on, source: aim?.source ?? "" });
  }

  async put({ x, y }) {
    const key = this.placing, aim = this.store.thing(key)?.thing.aim;
    this.place("");
    const { at } = await this.bench.frame.spot({ x, y }, true);
    if (!at) { this.store.note("Nothing stands there to be aimed at."); return; }
    if (this.store.selected !== key) this.store.select(key);
    const { x_cm: xCm, y_cm: yCm, z_cm: zCm } = at.place;
    this.set({ at: PLACE, x_cm: xCm, y_cm: yCm, z_cm: zCm, on: at.on, source: aim?.source ?? "" });
  }
}
