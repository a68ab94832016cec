// A click on a heading sorts its table: numbers by size, words by the alphabet, once more the other way.
document.querySelectorAll("table.headed").forEach(function (table) {
  table.querySelectorAll("th").forEach(function (head, column) {
    head.title = "Sort";
    head.addEventListener("click", function () {
      var up = head.dataset.up !== "1", body = table.tBodies[0];
      var value = function (row) { return row.cells[column].textContent.trim().replace("\u2212", "-"); };
      var rows = Array.from(body.rows).sort(function (a, b) {
        var one = value(a), two = value(b), x = parseFloat(one), y = parseFloat(two);
        var order = isNaN(x) || isNaN(y) ? one.localeCompare(two) : x - y;
        return up ? order : -order;
      });
      head.dataset.up = up ? "1" : "0";
      rows.forEach(function (row) { body.appendChild(row); });
    });
  });
});
