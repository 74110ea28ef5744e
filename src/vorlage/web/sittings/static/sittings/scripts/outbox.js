// Answers on their way: kept by the browser until the server has said that they are saved, and sent in their order.

const FIRST_WAIT = 1000;
const LONGEST_WAIT = 15_000;

/** What the browser keeps of a student's place in a sitting that was not confirmed, of every page that was open. */
function kept(prefix) {
  const names = Object.keys(localStorage).filter((name) => name.startsWith(prefix));
  return names.flatMap((name) => {
    try {
      return JSON.parse(localStorage.getItem(name)) ?? [];
    } catch {
      return [];
    }
  });
}

export class Outbox {
  /** `send(changes)` gives what the server answered, or throws; `told` is called with every answer, or with nothing
   * when the server cannot be reached. */
  constructor({ taking, tab, send, told }) {
    this.prefix = `sitting-${taking}-`;
    this.tab = tab;
    this.send = send;
    this.told = told;
    this.number = 0;
    this.wait = FIRST_WAIT;
    this.sending = null;
    // what an earlier page could not send comes first, under the name of that page
    this.items = kept(this.prefix).filter((item) => item.t !== tab);
    this.earlier = [...this.items];
    this.keep();
    for (const name of Object.keys(localStorage)) {
      if (name.startsWith(this.prefix) && name !== this.prefix + tab) localStorage.removeItem(name);
    }
  }

  get count() {
    return this.items.length;
  }

  keep() {
    try {
      if (this.items.length) localStorage.setItem(this.prefix + this.tab, JSON.stringify(this.items));
      else localStorage.removeItem(this.prefix + this.tab);
    } catch {
      // a full or forbidden store: what is here is sent all the same
    }
  }

  /** An answer to be saved; it is sent after so many milliseconds, with all that wait. */
  put(q, p, r, after = 0) {
    this.items = this.items.filter((item) => item.t !== this.tab || item.q !== q || item.p !== p || item.sent);
    this.number += 1;
    this.items.push({ t: this.tab, n: this.number, q, p, r });
    this.keep();
    this.later(after);
  }

  later(after) {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.flush(), after);
  }

  /** Sends all that waits; resolves to whether nothing waits any more. */
  async flush() {
    clearTimeout(this.timer);
    if (this.sending) await this.sending;
    if (this.items.length) {
      this.sending = this.sendAll();
      await this.sending;
      this.sending = null;
    }
    return this.items.length === 0;
  }

  async sendAll() {
    while (this.items.length) {
      const some = this.items.slice(0, 100);
      for (const item of some) item.sent = true;
      let answer;
      try {
        answer = await this.send(some.map(({ sent, ...item }) => item));
      } catch {
        for (const item of some) item.sent = false;
        this.told(null);
        this.wait = Math.min(this.wait * 2, LONGEST_WAIT);
        this.timer = setTimeout(() => this.flush(), this.wait);
        return;
      }
      this.wait = FIRST_WAIT;
      const saved = new Set((answer.saved ?? []).map(([tab, number]) => `${tab} ${number}`));
      this.items = this.items.filter((item) => !saved.has(`${item.t} ${item.n}`));
      this.keep();
      this.told(answer);
      if (!saved.size) return;
    }
  }
}
