// Which part of the set the right-hand side shows.
import { all } from "../dom.js";
document.addEventListener("alpine:initialized", () => window.Alpine.stopObservingMutations()); // nothing of Alpine's comes later
document.addEventListener("alpine:init", () => {
  window.Alpine.data("tabs", () => ({
    tab: "set",
    show(tab) {
      this.tab = tab;
      this.$dispatch("fotaxis:tab", { tab });
    },
    step(by) {
      const tabs = all("[role=tab]", this.$root);
      const next = tabs[(tabs.findIndex((one) => one.dataset.tab === this.tab) + by + tabs.length) % tabs.length];
      this.show(next.dataset.tab);
      next.focus();
    },
    chosen(tab) { return String(this.tab === tab); },
    focusable(tab) { return this.tab === tab ? 0 : -1; },
    away(tab) { return this.tab !== tab; },
  }));
});
