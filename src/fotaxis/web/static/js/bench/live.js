// Pictures while something is dragged: every wish is sent at once; the server paints the newest it has and drops the others.
import { unpack } from "../api.js";
import { pause, signedInAgain, windowId } from "../saving.js";

const LEAST_MS = 14;

// Straight from memory where a browser can; a blob goes by way of its other processes.
async function decoded(data) {
  if (!window.ImageDecoder) return createImageBitmap(new Blob([data], { type: "image/jpeg" }));
  const decoder = new ImageDecoder({ data, type: "image/jpeg" });
  try {
    return (await decoder.decode()).image;
  } finally {
    decoder.close();
  }
}

export class Live {
  // onPicture({header, bitmap, about}) for pictures, onProblem(text) for refused wishes, onState(number) when the shot has changed here
  // or elsewhere, onOpen() when the line stands, onHere(news) for who else is here, onProgress({key, done}) for fine pictures that are
  // being made, onSignedOut(out) when the sign-in is over or back.
  constructor(address, { onPicture, onProblem, onState, onOpen, onHere, onProgress, onSignedOut }) {
    this.address = address;
    this.onPicture = onPicture;
    this.onProblem = onProblem;
    this.onState = onState;
    this.onOpen = onOpen;
    this.onHere = onHere;
    this.onProgress = onProgress;
    this.onSignedOut = onSignedOut;
    this.seq = 0;
    this.sent = 0;
    this.waiting = false;
    this.flying = new Map();
    this.next = null;
    this.stale = 0; // answers up to this number are of no use any more
    this.open();
  }

  open() {
    const url = new URL(this.address, location.href);
    url.protocol = url.protocol.replace("http", "ws");
    url.searchParams.set("window", windowId);
    this.socket = new WebSocket(url);
    this.socket.binaryType = "arraybuffer";
    this.socket.onmessage = (event) => this.received(event.data);
    this.drawn = {};
    this.socket.onopen = () => { this.flying.clear(); this.onOpen(); this.send(); };
    this.socket.onclose = (event) => {
      if (event.code === 4404) return;
      if (event.code === 4401) this.untilSignedIn();
      else setTimeout(() => this.open(), 1000);
    };
  }

  // The page keeps what it has; when the same person has signed in again, in whatever tab, the line is opened anew.
  async untilSignedIn() {
    this.onSignedOut(true);
    while (!(await signedInAgain())) await pause(1500);
    this.onSignedOut(false);
    this.open();
  }

  // Something that wants no answer.
  say(words) {
    if (this.socket.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(words));
  }

  // wish: {revision, changes, view}; about: anything the picture's receiver wants back. A mouse may move more often than a screen
  // shows: of the wishes within LEAST_MS only the last one is sent.
  ask(wish, about) {
    this.next = { wish, about };
    if (this.waiting) return;
    const wait = this.sent + LEAST_MS - performance.now();
    if (wait <= 0) this.send();
    else {
      this.waiting = true;
      setTimeout(() => { this.waiting = false; this.send(); }, wait);
    }
  }

  // Nothing asked for so far is of use any more.
  forget() {
    this.next = null;
    this.stale = this.seq;
  }

  send() {
    if (!this.next || this.socket.readyState !== WebSocket.OPEN) return;
    const seq = ++this.seq;
    this.sent = performance.now();
    this.flying.set(seq, this.next.about);
    this.socket.send(JSON.stringify({ seq, ...this.next.wish }));
    this.next = null;
  }

  // Pieces of drawings that have not changed since the last picture on this line come as null.
  complete(header) {
    for (const view of ["floor", "side"]) {
      if (!header[view]) continue;
      const last = this.drawn[view];
      this.drawn[view] = header[view] = header[view].map((piece, i) => piece ?? last[i]);
    }
  }

  async received(data) {
    const { header, payload } = unpack(data);
    const about = this.flying.get(header.seq);
    for (const seq of this.flying.keys()) if (seq <= header.seq) this.flying.delete(seq);
    if (header.state !== undefined) {
      this.onState(header.state);
      return;
    }
    if (header.progress) {
      this.onProgress(header.progress);
      return;
    }
    if (header.here) {
      this.onHere(header.here);
      return;
    }
    this.complete(header);
    if (header.seq <= this.stale) return;
    if (header.problem) {
      this.onProblem(header.problem);
      return;
    }
    const bitmap = payload.byteLength ? await decoded(payload) : null;
    if (header.seq <= this.stale) { // decoded pictures may overtake one another
      bitmap?.close();
      return;
    }
    this.stale = header.seq;
    this.onPicture({ header, bitmap, about });
  }
}
