"use strict";
// Each list has all of its rows as data. They are searched and sorted there, and drawn as they are looked at.
const DRAWN = 100;

const text = (tag, words, className) => {
  const made = document.createElement(tag);
  made.textContent = words;
  if (className) made.className = className;
  return made;
};

const link = (address, words) => {
  if (!/^https?:\/\//i.test(address)) return text("span", words || address);
  const made = text("a", words || address);
  made.href = address;
  made.rel = "noreferrer";
  return made;
};

const cell = (...parts) => {
  const made = document.createElement("td");
  parts.filter(Boolean).forEach((part) => made.append(part));
  return made;
};

const small = (words) => (words ? text("small", words) : null);

const under = (address) => {
  const made = small(address);
  if (made) made.replaceChildren(link(address));
  return made;
};

// Of each list: what its columns are called, by what they are sorted, which value the boxes tick, and a row's cells.
const LISTS = {
  "follow-ups": {
    heads: [["What", "what"], ["Where", "title"], ["What to do", "advice"]],
    ticked: "state",
    cells: (row) => [
      cell(text("span", row.code, `mark ${row.severity}`), text("span", ` ${row.what}`)),
      cell(row.new ? link(row.new, row.title) : text("span", row.title), under(row.old)),
      cell(/done|accepted/.test(row.state) ? text("b", `${row.state}: ${row.note || "no note"}`) : text("span", row.advice)),
    ],
  },
  addresses: {
    heads: [["Old address", "old"], ["Status", "status"], ["New address", "new"], ["Why", "why"]],
    ticked: "status",
    cells: (row) => [
      cell(link(row.old)),
      cell(text("span", row.status)),
      cell(row.status === "410" ? text("i", "gone") : row.status === "200" ? text("i", "unchanged") : link(row.new)),
      cell(text("span", row.why)),
    ],
  },
  walk: {
    heads: [["What", "what"], ["Where", "title"], ["Before", "before"], ["After", "after"]],
    cells: (row) => [
      cell(text("span", row.what), small(row.detail)),
      cell(link(row.new_address, row.title), under(row.old_address)),
      cell(text("span", row.before)),
      cell(text("span", row.after)),
    ],
  },
  names: {
    heads: [["Kind", "kind"], ["Before", "old"], ["After", "new"]],
    ticked: "kind",
    cells: (row) => [cell(text("span", row.kind)), cell(text("span", row.old)), cell(text("span", row.new || "left out"))],
  },
  ledger: {
    heads: [["Kind", "kind"], ["Title", "title"], ["New address", "new"], ["Fate", "fate"]],
    ticked: "fate",
    cells: (row) => [
      cell(text("span", row.kind)),
      cell(text("span", row.title), under(row.old)),
      cell(row.new ? link(row.new) : null),
      cell(text("span", row.fate.replace("-", " "), `fate ${row.fate}`), small(row.reason)),
    ],
  },
};

class List {
  constructor(holder) {
    this.holder = holder;
    this.kind = LISTS[holder.dataset.list];
    const data = holder.querySelector("script");
    this.columns = data.dataset.columns.split(" ");
    this.rows = JSON.parse(data.textContent);
    data.remove();
    this.words = new Array(this.rows.length);
    this.search = holder.querySelector("input[type=search]");
    this.boxes = [...holder.querySelectorAll("input[type=checkbox]")];
    this.told = holder.querySelector("output");
    this.sorted = { name: "", down: false };
    this.build();
    holder.querySelector(".tools").addEventListener("input", () => this.filter());
    this.filter();
  }

  build() {
    const table = document.createElement("table");
    const caption = text("caption", this.search.getAttribute("aria-label").replace("Search: ", ""), "unseen");
    const head = document.createElement("tr");
    for (const [words, name] of this.kind.heads) {
      const place = document.createElement("th");
      place.scope = "col";
      place.dataset.name = name;
      const button = text("button", words, "sort");
      button.type = "button";
      button.addEventListener("click", () => this.sort(name));
      place.append(button);
      head.append(place);
    }
    const top = document.createElement("thead");
    top.append(head);
    this.body = document.createElement("tbody");
    table.append(caption, top, this.body);
    this.more = text("button", "Show more", "more-rows");
    this.more.type = "button";
    this.more.addEventListener("click", () => this.draw());
    this.holder.append(table, this.more);
    if ("IntersectionObserver" in window) {
      new IntersectionObserver((seen) => seen.some((one) => one.isIntersecting) && this.draw()).observe(this.more);
    }
  }

  at(row, name) {
    return String(row[this.columns.indexOf(name)] ?? "");
  }

  matches(place, parts) {
    const row = this.rows[place];
    return parts.every(([name, word]) => {
      if (name) return this.at(row, name).toLowerCase().replaceAll(" ", "_") === word;
      this.words[place] ??= row.join("\n").toLowerCase();
      return this.words[place].includes(word);
    });
  }

  filter() {
    const parts = this.search.value.trim().toLowerCase().split(/\s+/).filter(Boolean).map((word) => {
      const [name, value] = word.split(/:(.+)/);
      return value && this.columns.includes(name) ? [name, value] : ["", word];
    });
    const ticked = new Set(this.boxes.filter((box) => box.checked).map((box) => box.value));
    const column = this.columns.indexOf(this.kind.ticked);
    this.found = [];
    for (let place = 0; place < this.rows.length; place += 1) {
      const value = this.rows[place][column];
      const settled = value === "done" || value === "accepted" ? "settled" : value;
      if (this.boxes.length && column >= 0 && !ticked.has(settled)) continue;
      if (this.matches(place, parts)) this.found.push(place);
    }
    this.order();
  }

  sort(name) {
    this.sorted = { name, down: this.sorted.name === name && !this.sorted.down };
    for (const head of this.holder.querySelectorAll("th")) {
      if (head.dataset.name === name) head.setAttribute("aria-sort", this.sorted.down ? "descending" : "ascending");
      else head.removeAttribute("aria-sort");
    }
    this.order();
  }

  order() {
    const { name, down } = this.sorted;
    if (name) {
      const compare = new Intl.Collator("en", { numeric: true }).compare;
      const keys = new Map(this.found.map((place) => [place, this.at(this.rows[place], name)]));
      this.found.sort((one, other) => compare(keys.get(one), keys.get(other)) || one - other);
      if (down) this.found.reverse();
    } else {
      this.found.sort((one, other) => one - other);
    }
    this.body.textContent = "";
    this.drawn = 0;
    this.draw();
  }

  draw() {
    const until = Math.min(this.drawn + DRAWN, this.found.length);
    for (; this.drawn < until; this.drawn += 1) {
      const row = this.rows[this.found[this.drawn]];
      const named = Object.fromEntries(this.columns.map((name, place) => [name, String(row[place] ?? "")]));
      const made = document.createElement("tr");
      this.kind.cells(named).forEach((part, place) => {
        part.dataset.head = this.kind.heads[place][0];
        made.append(part);
      });
      this.body.append(made);
    }
    this.more.hidden = this.drawn >= this.found.length;
    const number = (count) => count.toLocaleString("en");
    this.told.textContent = this.found.length === this.rows.length
      ? `${number(this.rows.length)} rows`
      : `${number(this.found.length)} of ${number(this.rows.length)} rows`;
  }

  show(words, tick) {
    this.search.value = words;
    for (const box of this.boxes) box.checked = !tick || box.value === tick;
    this.filter();
  }
}

class Samples {
  constructor(holder) {
    const data = holder.querySelector("script");
    this.samples = JSON.parse(data.textContent);
    data.remove();
    if (!this.samples.length) {
      holder.textContent = "No text was moved that could be shown here.";
      return;
    }
    this.place = 0;
    this.told = holder.querySelector("output");
    this.shown = document.createElement("div");
    holder.append(this.shown);
    for (const button of holder.querySelectorAll("[data-step]")) {
      button.addEventListener("click", () => this.step(Number(button.dataset.step)));
    }
    holder.addEventListener("keydown", (event) => {
      const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (step) {
        event.preventDefault();
        this.step(step);
      }
    });
    this.step(0);
  }

  step(by) {
    const number = this.samples.length;
    this.place = (this.place + by + number) % number;
    const sample = this.samples[this.place];
    this.told.textContent = `${this.place + 1} of ${number}: ${sample.title}`;
    const sides = document.createElement("div");
    sides.className = "sides";
    for (const [side, name] of [["old", "Old"], ["new", "New"]]) {
      const figure = document.createElement("figure");
      const caption = text("figcaption", `${name}: `);
      caption.append(link(sample[side]));
      const frame = document.createElement("iframe");
      frame.setAttribute("sandbox", "");
      frame.title = `${name} text of ${sample.title}`;
      frame.srcdoc = sample[`${side} page`];
      figure.append(caption, frame);
      sides.append(figure);
    }
    this.shown.replaceChildren(text("p", `Chosen for: ${sample.why}`, "soft"), sides);
  }
}

const lists = Object.fromEntries(
  [...document.querySelectorAll("div.list")].map((holder) => [holder.dataset.list, new List(holder)]),
);
for (const asked of document.querySelectorAll("[data-search]")) {
  asked.addEventListener("click", () => {
    lists[asked.dataset.list || "ledger"].show(asked.dataset.search, asked.dataset.tick);
  });
}
for (const holder of document.querySelectorAll(".samples")) new Samples(holder);
