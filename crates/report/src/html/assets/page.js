"use strict";
// Everything on the page is there without this; with it, findings can be filtered, and a link to something
// folded up opens it.
(() => {
  const open = (element) => {
    for (let at = element; at; at = at.parentElement) {
      if (at.tagName === "DETAILS") at.open = true;
    }
  };
  const arrive = () => {
    const id = decodeURIComponent(location.hash.slice(1));
    const target = id && document.getElementById(id);
    if (!target) return;
    open(target);
    if (target.classList.contains("panel")) target.focus({ preventScroll: true });
    target.scrollIntoView();
  };
  addEventListener("hashchange", arrive);
  arrive();

  addEventListener("beforeprint", () => {
    for (const details of document.querySelectorAll("details")) details.open = true;
  });

  const form = document.getElementById("filter");
  if (!form) return;
  const findings = [...document.querySelectorAll(".finding")];
  const texts = new Map();
  const text = (finding) => {
    if (!texts.has(finding)) texts.set(finding, finding.textContent.toLowerCase());
    return texts.get(finding);
  };
  const wanted = (name) => form.elements[name].value;
  const filter = () => {
    const words = wanted("text").toLowerCase().split(/\s+/).filter(Boolean);
    const [endpoint, clause, severity] = ["endpoint", "clause", "severity"].map(wanted);
    const is_filtered = words.length > 0 || endpoint || clause || severity;
    let shown = 0;
    for (const finding of findings) {
      const { dataset } = finding;
      const fits = (!endpoint || dataset.endpoint === endpoint)
        && (!clause || dataset.clause === clause)
        && (!severity || dataset.severity === severity)
        && words.every((word) => text(finding).includes(word));
      finding.hidden = !fits;
      if (fits) shown += 1;
    }
    for (const group of document.querySelectorAll(".group")) {
      const is_empty = !group.querySelector(".finding:not([hidden])");
      group.hidden = is_filtered && is_empty;
      if (is_filtered && !is_empty) group.open = true;
    }
    form.elements.count.value = `${shown} of ${findings.length} shown`;
  };
  let later = 0;
  form.addEventListener("input", () => { clearTimeout(later); later = setTimeout(filter, 120); });
  form.addEventListener("reset", () => setTimeout(filter));
  form.addEventListener("submit", (event) => event.preventDefault());
  form.hidden = false;
  filter();
})();
