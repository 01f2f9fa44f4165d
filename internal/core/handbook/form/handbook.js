(function () {
  "use strict";
  var form = document.querySelector("form[role=search]"), input = document.getElementById("q"), said = document.getElementById("said"), hits = document.getElementById("hits");
  var root = document.body.getAttribute("data-root") || "", most = 60, names = null, waiting = false;
  form.hidden = false;
  function load(then) {
    if (window.handbookNames && !names) {
      names = window.handbookNames.map(function (n) { return { kind: n[0], address: n[1], href: n[2], about: n[3], columns: n[4], low: n[1].toLowerCase(), said: n[3].toLowerCase(), lowColumns: n[4].toLowerCase() }; });
    }
    if (names) { then(); return; }
    if (waiting) { return; }
    waiting = true;
    var s = document.createElement("script");
    s.src = root + "names.js";
    s.onload = function () { waiting = false; load(search); }; // whatever was typed meanwhile
    s.onerror = function () { said.textContent = "The names could not be loaded."; };
    document.head.appendChild(s);
  }
  function column(n, q) {
    var at = ("\n" + n.lowColumns).indexOf("\n" + q);
    if (at < 0) { at = n.lowColumns.indexOf(q); if (at < 0) { return ""; } at = n.columns.lastIndexOf("\n", at) + 1; }
    var end = n.columns.indexOf("\n", at);
    return n.columns.slice(at, end < 0 ? undefined : end);
  }
  function search() {
    var q = input.value.trim().toLowerCase();
    hits.textContent = "";
    if (!q) { hits.hidden = true; said.textContent = ""; return; }
    var found = [];
    names.forEach(function (n) {
      var last = Math.max(n.low.lastIndexOf("/"), n.low.lastIndexOf(".")) + 1, at = n.low.indexOf(q), rank = -1, why = "";
      if (n.low.slice(last) === q) { rank = 0; } else if (n.low.indexOf(q, last) === last) { rank = 1; } else if (at >= 0) { rank = 2; }
      if (rank < 0 && n.lowColumns.indexOf(q) >= 0) { why = column(n, q); rank = why.toLowerCase() === q ? 3 : 4; }
      if (rank < 0 && n.said.indexOf(q) >= 0) { rank = 5; why = n.about; }
      if (rank >= 0) { found.push({ n: n, rank: rank, why: why }); }
    });
    found.sort(function (a, b) { return a.rank - b.rank || (a.n.low < b.n.low ? -1 : a.n.low > b.n.low ? 1 : 0); });
    found.slice(0, most).forEach(function (f) {
      var li = document.createElement("li"), a = document.createElement("a"), rest = document.createElement("span");
      a.href = root + f.n.href;
      a.textContent = f.n.address;
      rest.className = "faint";
      rest.textContent = f.n.kind + (f.why ? ", " + f.why : "");
      a.appendChild(rest);
      li.appendChild(a);
      hits.appendChild(li);
    });
    hits.hidden = found.length === 0;
    said.textContent = found.length === 0 ? "nothing found" : found.length > most ? found.length + " found, " + most + " shown" : found.length + " found";
  }
  input.addEventListener("input", function () { load(search); });
  input.addEventListener("focus", function () { load(function () {}); });
  form.addEventListener("submit", function (e) { e.preventDefault(); var first = hits.querySelector("a"); if (first) { location.href = first.href; clear(); } });
  hits.addEventListener("click", clear);
  function clear() { input.value = ""; hits.hidden = true; said.textContent = ""; }
  document.addEventListener("keydown", function (e) {
    var at = document.activeElement, typing = at && (at.tagName === "INPUT" || at.isContentEditable);
    if (e.key === "/" && !typing && !e.ctrlKey && !e.metaKey && !e.altKey) { e.preventDefault(); input.focus(); return; }
    if (hits.hidden) { return; }
    var links = Array.prototype.slice.call(hits.querySelectorAll("a")), i = links.indexOf(at);
    if (e.key === "Escape") { clear(); input.focus(); }
    if (e.key === "ArrowDown" && (typing || i >= 0)) { e.preventDefault(); (links[i + 1] || links[0]).focus(); }
    if (e.key === "ArrowUp" && i >= 0) { e.preventDefault(); (i === 0 ? input : links[i - 1]).focus(); }
  });
})();
