// The bench of one shot: one store, and the views that show it. Views listen to the store and ask it; they change nothing themselves.
import { $, all } from "../dom.js";
import { onWaiting } from "../api.js";
import { line } from "../saving.js";
import { Aims } from "./aims.js";
import { Adding } from "./adding.js";
import { Cards } from "./cards.js";
import { Cameras } from "./cameras.js";
import { ClientLinks } from "./client_links.js";
import { Drawings } from "./drawings.js";
import { bindFields, fillFields, givesBackKeys, showParts, unitOf } from "./fields.js";
import { Faults } from "./faults.js";
import { Film } from "./film.js";
import { FrameView } from "./frame.js";
import { Framing } from "./framing.js";
import { Inspector } from "./inspector.js";
import { bindKeys } from "./keys.js";
import { Lights } from "./lights.js";
import { Meter } from "./meter.js";
import { People } from "./people.js";
import { PolariserMap } from "./polariser.js";
import { Probe } from "./probe.js";
import { ProductForm } from "./product.js";
import { ReadingLine } from "./reading_line.js";
import { Readings } from "./readings.js";
import { Reckon } from "./reckon.js";
import { States } from "./states.js";
import { Store } from "./store.js";
import { Studies } from "./studies.js";
import "./tabs.js";
import { Surface } from "./surface.js";
import { TopBar } from "./top_bar.js";
import { Marking } from "./marking.js";
import { Ways } from "./ways.js";
import { Wishes } from "./wishes.js";

const json = (id) => JSON.parse($(id).textContent);

class Bench {
  constructor() {
    const store = this.store = new Store(json("state"), json("addresses"));
    store.size = () => ({
      width: Math.max(100, Math.round($("floor").clientWidth || 380)), height: Math.max(100, Math.round($("floor").clientHeight || 288)),
    });
    this.topBar = new TopBar(this);
    this.product = new ProductForm(this);
    this.people = new People(this);
    this.frame = new FrameView(this);
    this.drawings = new Drawings(this, $("floor"), $("side"));
    this.lights = new Lights(this, $("lights"), $("light-template"));
    this.framing = new Framing(this);
    store.framing = this.framing;
    this.cards = new Cards(this);
    this.cameras = new Cameras(this);
    this.surface = new Surface(this);
    this.film = new Film(this);
    this.faults = new Faults(this);
    this.inspector = new Inspector(this, $("tape"));
    this.aims = new Aims(this);
    this.readingLine = new ReadingLine(this, $("frame-over"), $("frame"));
    this.readings = new Readings(this);
    this.meter = new Meter(this);
    this.wishes = new Wishes(this, json("wish-kinds"));
    this.ways = new Ways(this);
    this.marking = new Marking(this);
    this.studies = new Studies(this);
    this.reckon = new Reckon(this);
    this.polariser = new PolariserMap(this);
    this.states = new States(this);
    this.adding = new Adding(this, $("adding"));
    this.probe = new Probe(this, $("frame"), $("spot"));
    if ($("view-link")) this.links = new ClientLinks(this);
    this.fields();
    bindKeys(this);
    onWaiting((words) => store.waiting(words));
    line.listen((reachable) => store.reachable(reachable));
    addEventListener("resize", () => store.refresh());
    $("work").addEventListener("fotaxis:tab", (event) => this.turnTo(event.detail.tab));
    this.frame.begin();
    store.begin();
  }

  // Fields that stand in the page all the time: camera, lens, surface, exposure.
  fields() {
    const { store } = this;
    bindFields(store, document);
    givesBackKeys($("bench"));
    store.on(["state", "unit"], () => {
      fillFields(document, store.state);
      showParts(document, store.document);
      for (const part of all("[data-focus]")) part.hidden = store.document.lens.focus !== "distance";
      for (const part of all("[data-surface]")) part.hidden = part.dataset.surface !== store.document.table?.surface;
    });
    store.on("unit", () => unitOf(document));
  }

  turnTo(tab) {
    if (tab === "product") this.product.load();
    if (tab === "set") this.store.refresh();
    if (tab === "surface") setTimeout(() => this.surface.show());
    if (tab === "states") setTimeout(() => this.states.load());
    if (tab === "readings") setTimeout(() => { this.readings.show(); this.readings.histogram(); });
  }
}

new Bench();
