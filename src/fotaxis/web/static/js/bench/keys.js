// Everything frequent has a key; the card that lists them opens on "?".
import { $, targetOf } from "../dom.js";
import { keepCapture } from "./keep_capture.js";

export function bindKeys(bench) {
  const { store } = bench;
  addEventListener("keydown", (event) => {
    const dialog = targetOf(event).closest?.("dialog[open]");
    if (dialog && event.key === "Escape" && !targetOf(event).closest("select, input")) {
      // At once: the browser's own closing comes a moment later, and the next key is meant for the bench.
      event.preventDefault();
      dialog.close();
      return;
    }
    const typing = targetOf(event).closest?.("input:not([type=range]):not([type=color]), textarea, select, dialog");
    const command = event.ctrlKey || event.metaKey;
    if (command && event.key.toLowerCase() === "z" && !typing) {
      event.preventDefault();
      if (event.shiftKey) store.redo();
      else store.undo();
      return;
    }
    if (typing || command) return;
    const step = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
    const turn = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
    const moves = {
      ArrowLeft: [[["place", "x_cm"], -step]], ArrowRight: [[["place", "x_cm"], step]],
      ArrowUp: [[["place", "z_cm"], -step]], ArrowDown: [[["place", "z_cm"], step]],
      PageUp: [[["place", "y_cm"], step]], PageDown: [[["place", "y_cm"], -step]],
      q: [[["turn_deg"], -turn]], e: [[["turn_deg"], turn]], r: [[["tilt_deg"], turn]], f: [[["tilt_deg"], -turn]],
    };
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    if (moves[key] && store.selected && !targetOf(event).closest("input")) {
      event.preventDefault();
      const label = key.length === 1 ? "Turned by keys" : "Nudged";
      store.nudge(moves[key], label, (wish) => bench.frame.preview(wish, { moved: performance.now() }));
      return;
    }
    const group = store.light(store.selected)?.group;
    const done = {
      "?": () => $("keys").showModal(),
      escape: () => letGo(bench),
      n: () => bench.adding.open(),
      t: () => bench.drawings.measuring(!document.body.classList.contains("measuring")),
      m: () => store.mirror(),
      w: () => store.walk(),
      k: () => bench.frame.toggleMark("blackPoint"),
      i: () => bench.readings.toggle(),
      p: () => bench.states.pinNow(),
      c: () => event.repeat || bench.states.turn("flip"),
      u: () => store.switchUnit(),
      y: () => store.makeKey(store.selected),
      h: () => bench.framing.frame(),
      l: () => bench.wishes.balance(),
      d: () => bench.marking.turn(!bench.marking.on),
      v: () => bench.wishes.nextOpen(),
      x: () => keepCapture(store),
      s: () => bench.reckon.open(),
      "[": () => store.reorder(-1),
      "]": () => store.reorder(1),
      b: () => store.toggleBlack(),
      z: () => bench.frame.toggleMark("zebra"),
      o: () => store.toggleLight(store.selected),
      g: () => group && store.switchGroup(group),
      ".": () => group && store.stepGroup(group, 1),
      ",": () => group && store.stepGroup(group, -1),
      a: () => store.light(store.selected) && store.showAlone(store.selected),
      "+": () => store.stepPower(store.selected, 1),
      "=": () => store.stepPower(store.selected, 1),
      "-": () => store.stepPower(store.selected, -1),
    }[key.toLowerCase()];
    if (done) {
      event.preventDefault();
      done();
      return;
    }
    const shifted = /^Digit([1-9])$/.exec(event.code);
    if (event.shiftKey && shifted) {
      event.preventDefault();
      bench.cards.number(Number(shifted[1]) - 1);
      return;
    }
    if (/^[1-9]$/.test(key)) {
      const light = store.state.lights[Number(key) - 1];
      if (light) store.select(store.selected === light.key ? "" : light.key);
    }
  });
  addEventListener("keyup", (event) => {
    if (event.key.toLowerCase() === "c" && bench.states.mode === "flip") bench.states.turn("");
  });
}

// One thing after the other: a comparison, a spot being placed, the tape, at last the selection.
function letGo(bench) {
  if (bench.states.mode) bench.states.turn("");
  else if (bench.readings.placing) bench.readings.place(false);
  else if (bench.meter.placing) bench.meter.place(false);
  else if (bench.aims.placing) bench.aims.place("");
  else if (bench.marking.on) bench.marking.turn(false);
  else if (bench.ways.wish) bench.ways.close();
  else if (bench.cameras.isParting) bench.cameras.parting(false);
  else if (bench.product.unrolled.overFrame) bench.product.unrolled.leaveFrame();
  else if (document.body.classList.contains("measuring")) bench.drawings.measuring(false);
  else bench.store.select("");
}
