// Draws the season's months as bars; the numbers come from the observatory's own records.
const chart = document.getElementById("season");
const response = await fetch(chart.dataset.source);
const season = await response.json();
const most = Math.max(...season.months.map(({ birds }) => birds));

chart.replaceChildren(
  ...season.months.map(({ month, birds }) => {
    const bar = document.createElement("div");
    bar.className = "bar";
    const column = document.createElement("i");
    column.style.height = `${(birds / most) * 9}rem`;
    bar.append(String(birds), column, month);
    return bar;
  }),
);
chart.dataset.drawn = String(season.months.length);
