"use strict";
(function () {
  const form = document.getElementById("filter");
  if (!form) return;
  const rows = Array.from(document.querySelectorAll("#list tbody tr"));
  const told = document.getElementById("told");
  const texts = rows.map(function (row) { return row.textContent.toLowerCase(); });
  function apply() {
    const words = form.elements.words.value.toLowerCase().split(/\s+/).filter(Boolean);
    const wanted = ["level", "code", "field"].map(function (name) { return [name, form.elements[name].value]; });
    let count = 0;
    rows.forEach(function (row, number) {
      const fits = wanted.every(function (one) { return one[1] === "" || row.dataset[one[0]] === one[1]; }) &&
        words.every(function (word) { return texts[number].includes(word); });
      row.hidden = !fits;
      count += fits ? 1 : 0;
    });
    told.textContent = count + " of " + rows.length + " shown";
  }
  form.hidden = false;
  form.addEventListener("input", apply);
  form.addEventListener("submit", function (event) { event.preventDefault(); });
  form.addEventListener("reset", function () { setTimeout(apply, 0); });
  apply();
})();
