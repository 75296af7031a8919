// Everything frequent has a key; the card that lists them opens on "?".

export function bindKeys(bench) {
  addEventListener("keydown", (event) => {
    const typing = event.target.closest?.("input:not([type=range]):not([type=color]), textarea, select, dialog");
    const command = event.ctrlKey || event.metaKey;
    if (command && event.key.toLowerCase() === "z" && !typing) {
      event.preventDefault();
      if (event.shiftKey) bench.redo();
      else bench.undo();
      return;
    }
    if (typing || command) return;
    const step = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
    const turn = event.shiftKey ? 10 : 1;
    const moves = {
      ArrowLeft: [[["place", "x_cm"], -step]], ArrowRight: [[["place", "x_cm"], step]],
      ArrowUp: [[["place", "z_cm"], -step]], ArrowDown: [[["place", "z_cm"], step]],
      PageUp: [[["place", "y_cm"], step]], PageDown: [[["place", "y_cm"], -step]],
      q: [[["turn_deg"], -turn]], e: [[["turn_deg"], turn]], r: [[["tilt_deg"], turn]], f: [[["tilt_deg"], -turn]],
    };
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    if (moves[key] && bench.selected && !event.target.closest("input")) {
      event.preventDefault();
      bench.nudge(moves[key], key.length === 1 ? "Turned by keys" : "Nudged");
      return;
    }
    const done = {
      "?": () => document.getElementById("keys").showModal(),
      escape: () => bench.select(""),
      b: () => bench.blackFrame(),
      z: () => bench.toggleZebra(),
      o: () => bench.switchLight(bench.selected),
      a: () => bench.light(bench.selected) && bench.soloLight(bench.selected),
      "+": () => bench.stepPower(bench.selected, 1),
      "=": () => bench.stepPower(bench.selected, 1),
      "-": () => bench.stepPower(bench.selected, -1),
    }[key.toLowerCase()];
    if (done) {
      event.preventDefault();
      done();
      return;
    }
    if (/^[1-9]$/.test(key)) {
      const light = bench.state.lights[Number(key) - 1];
      if (light) bench.select(bench.selected === light.key ? "" : light.key);
    }
  });
}
