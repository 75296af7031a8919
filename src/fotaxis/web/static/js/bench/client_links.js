// The dialog for links through which a client looks: made for a while, ended one by one, with how often they were opened.
import { $, targetOf } from "../dom.js";
import { getJson, post } from "../api.js";


export class ClientLinks {
  constructor(bench) {
    this.bench = bench;
    this.address = bench.store.addresses["view-links"];
    $("view-link").onclick = () => this.open();
    $("make-link").onclick = () => this.change(() => post(this.address, { days: Number($("link-days").value) }));
    $("end-links").onclick = () => this.change(() => post(`${this.address}/end`, {}));
    $("links").addEventListener("click", (event) => {
      const { end } = targetOf(event).dataset;
      if (end) this.change(() => post(`${this.address}/end`, { link: end }));
    });
  }

  async open() {
    $("link-address").value = "";
    $("link-dialog").showModal();
    await this.change(() => getJson(this.address));
  }

  async change(work) {
    try {
      const { address, links } = await work();
      $("link-problem").textContent = "";
      if (address) {
        $("link-address").value = address;
        $("link-address").select();
      }
      this.list(links);
    } catch (error) {
      $("link-problem").textContent = error.message;
    }
  }

  list(links) {
    $("end-links").disabled = !links.length;
    $("links").replaceChildren(...links.map(({ id, words }) => {
      const item = document.createElement("li");
      const end = Object.assign(document.createElement("button"), { type: "button", className: "quiet", textContent: "End" });
      end.dataset.end = id;
      end.setAttribute("aria-label", `End the link ${words}`);
      item.append(Object.assign(document.createElement("span"), { className: "flex-1", textContent: words }), end);
      return item;
    }));
  }
}
