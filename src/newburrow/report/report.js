"use strict";
// Each row of tools filters the rows of one table by a word and by the ticked boxes.
for (const tools of document.querySelectorAll(".tools")) {
  const rows = [...document.getElementById(tools.dataset.for).rows];
  const words = rows.map((row) => row.textContent.toLowerCase());
  const search = tools.querySelector("input[type=search]");
  const boxes = [...tools.querySelectorAll("input[type=checkbox]")];
  const told = tools.querySelector("output");
  const filter = () => {
    const wanted = search.value.trim().toLowerCase();
    const ticked = new Set(boxes.filter((box) => box.checked).map((box) => box.value));
    let shown = 0;
    rows.forEach((row, place) => {
      row.hidden = (boxes.length > 0 && !ticked.has(row.dataset.key)) || !words[place].includes(wanted);
      shown += row.hidden ? 0 : 1;
    });
    told.textContent = `${shown.toLocaleString("en")} of ${rows.length.toLocaleString("en")} shown`;
  };
  tools.addEventListener("input", filter);
  filter();
}
