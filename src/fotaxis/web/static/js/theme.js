// Dark unless this browser was set otherwise; runs before the page is painted. A page may have themes of its own, kept apart.
(() => {
  const { kept = "fotaxis-theme", themes = "dark light" } = document.currentScript?.dataset ?? {};
  const known = themes.split(" ");
  const set = (() => { try { return localStorage.getItem(kept); } catch { return null; } })();
  document.documentElement.dataset.theme = set && known.includes(set) ? set : "dark";
  document.addEventListener("click", (event) => {
    if (!/** @type {Element} */ (event.target).closest("[data-theme-switch]")) return;
    const next = known[(known.indexOf(document.documentElement.dataset.theme) + 1) % known.length];
    document.documentElement.dataset.theme = next;
    try { localStorage.setItem(kept, next); } catch { /* private window: the choice lasts for this page */ }
  });
})();
