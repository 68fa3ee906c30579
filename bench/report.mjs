// The figures as the table and the plot of docs/performance.md.
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { root } from "../tools/setup.mjs";

const number = (n) => Math.round(n).toLocaleString("en-GB");
const us = (value) => value.toFixed(1);
const ms = (value) => `${Math.round(value)} ms`;
const exact = (value) => `${value.toFixed(value < 10 ? 1 : 0)} ms`;

export function formatReport(figures) {
  const { machine, rows, steady, slow, budget, start, rules, listing, probe, costs, workers } = figures;
  const lines = rows.map(({ title, unit, live, sealed, ceiling, handwritten, processor, growth }) => {
    const cell = ({ value, ofCeiling, ofHandwritten }, name) => {
      const time = processor === undefined ? "" : `, ${Math.round(processor[name])} µs`;
      return `${number(value)}${time}: **${ofCeiling.toFixed(2)}**, ${ofHandwritten.toFixed(1)} ×`;
    };
    const more = growth === undefined ? "" : `; memory + ${growth.toFixed(0)} MB`;
    const own = processor === undefined ? "" : `, ${Math.round(processor.ceiling)} µs`;
    return `| ${title} (${unit}${more}) | ${cell(live, "live")} | ${cell(sealed, "sealed")} | ${number(ceiling)}${own} | ${number(handwritten)} |`;
  });
  const times = (name) => `${exact(steady[name].p50)} / ${exact(steady[name].p99)}`;
  return `| answer | live folder | sealed | the ceiling | handwritten |
| --- | --- | --- | --- | --- |
${lines.join("\n")}

Each cell: the rate, the CPU time per response, the **share of the ceiling**, and the multiple of handwritten.

Latency (p50 / p99) at a steady ${number(steady.rate)} requests/s: ceiling ${times("ceiling")}, handwritten ${times("handwritten")}, live ${times("live")}, sealed ${times("sealed")}.

${slow.live.clients} stalled clients of a 200 MB file: memory grows by ${slow.live.growth.toFixed(0)} MB (sealed: ${slow.sealed.growth.toFixed(0)}). The p99 of other clients is ${exact(slow.live.beside)} meanwhile, and ${exact(slow.live.alone)} without them.

A 1 KiB response in process, without a socket, in µs: bare \`node:http\` ${us(budget.bare)}; sealed ${us(budget.sealed)}; live ${us(budget.live)}, or ${us(budget.shared)} if another request in the same turn of the event loop has already checked the file; nothing cached ${us(budget.full)}. One check is an \`lstat\` (${us(budget.lstat)}) and a \`realpath\` of the folder (${us(budget.realpath)}).

Startup, beyond a bare server's ${ms(start.bare)}: ${ms(start.open)} to import the package and open a folder, ${ms(start.serve)} for \`epistyle serve\`.

Choosing a response with 100 mounts and 1,000 areas takes ${rules.ratio.toFixed(2)} times as long as with one mount (${(rules.manyNs / 1000).toFixed(1)} and ${(rules.oneNs / 1000).toFixed(1)} µs, in process, nothing cached).

Listing a folder of 100,000 entries, as HTML in pages of 500: the first page takes ${ms(listing.first)} (the event loop is blocked for ${ms(listing.firstStall)} at most), another page ${ms(listing.again)}, the first page by size, which needs the metadata of every entry, ${ms(listing.bySize)} (${ms(listing.bySizeStall)}). Memory grows by ${Math.round(listing.growth)} MB. Medians of seven fresh processes.

Workers, one / two, on two cores that also run the load generator: ${number(workers.one.small)} / ${number(workers.two.small)} responses/s for a 4 KiB file, ${number(workers.one.list)} / ${number(workers.two.list)} for a listing of 500 entries. Latency (p50 / p99) of that listing at ${number(workers.rate)} requests/s: one worker ${exact(workers.one.p50)} / ${exact(workers.one.p99)}, two workers ${exact(workers.two.p50)} / ${exact(workers.two.p99)}.

Cost of optional features, off / on, in µs per response in process: ${Object.entries(costs)
    .map(([name, { off, on }]) => `${name} ${us(off)} / ${us(on)}`)
    .join("; ")}.

1,000 requests through a probe, one after another, each with a trace and a check, take ${ms(probe.probe)} (cold ${ms(probe.probeFirst)}). \`epistyle check\` runs 1,000 cases in process in ${ms(probe.runner)} (cold ${ms(probe.runnerFirst)}).

${machine}`;
}

export async function writeReport(figures) {
  const file = join(root, "docs", "performance.md");
  const [begin, end] = ["<!-- table -->", "<!-- end of table -->"];
  const doc = readFileSync(file, "utf8");
  const text = `${doc.slice(0, doc.indexOf(begin) + begin.length)}\n${formatReport(figures)}\n${doc.slice(doc.indexOf(end))}`;
  writeFileSync(file, text);
  const svg = await drawPlot(figures.sizes);
  const { Resvg } = await import("@resvg/resvg-js");
  writeFileSync(join(root, "docs/plots/throughput.svg"), svg);
  const png = new Resvg(svg, { fitTo: { mode: "width", value: 1280 }, background: "#ffffff" })
    .render()
    .asPng();
  writeFileSync(join(root, "docs/plots/throughput.png"), png);
}

const LINES = [
  { name: "the ceiling", colour: "#8a8f98", of: (row) => row.ceiling },
  { name: "sealed", colour: "#0b6e4f", of: (row) => row.sealed.value },
  { name: "live folder", colour: "#c4572e", of: (row) => row.live.value },
  { name: "handwritten", colour: "#3d5a98", of: (row) => row.handwritten },
];

/** Throughput against file size, both in steps of equal ratio. */
async function drawPlot(sizes) {
  const vega = await import("vega");
  const axis = (orient, scale, title, more) => ({ orient, scale, title, grid: true, ...more });
  const values = sizes.flatMap(({ bytes, row }) =>
    LINES.map(({ name, of }) => ({ bytes, name, rate: of(row) })),
  );
  const last = values.filter(({ bytes }) => bytes === sizes.at(-1).bytes);
  const ticks = sizes.map(({ bytes }) => bytes);
  const spec = {
    $schema: "https://vega.github.io/schema/vega/v6.json",
    width: 760,
    height: 420,
    padding: 16,
    config: {
      text: { font: "DejaVu Sans", fontSize: 14 },
      axis: {
        labelFont: "DejaVu Sans",
        titleFont: "DejaVu Sans",
        labelFontSize: 13,
        titleFontSize: 14,
        titleFontWeight: "normal",
        gridColor: "#e3e5e8",
        domainColor: "#6b7078",
      },
      title: { font: "DejaVu Sans", fontSize: 17, anchor: "start", fontWeight: "normal" },
    },
    title: "Answers a second by size of the file",
    data: [
      { name: "all", values },
      { name: "last", values: last },
    ],
    scales: [
      { name: "x", type: "log", base: 2, domain: [ticks[0], ticks.at(-1)], range: "width" },
      { name: "y", type: "log", domain: { data: "all", field: "rate" }, range: "height", nice: true },
      {
        name: "colour",
        type: "ordinal",
        domain: LINES.map(({ name }) => name),
        range: LINES.map(({ colour }) => colour),
      },
    ],
    axes: [
      axis("bottom", "x", "size of the file", {
        values: ticks,
        encode: {
          labels: {
            update: {
              text: {
                signal:
                  "datum.value >= 1048576 ? datum.value / 1048576 + ' MiB' : datum.value / 1024 + ' KiB'",
              },
            },
          },
        },
      }),
      axis("left", "y", "requests a second", {
        format: ",d",
        values: [500, 1000, 2000, 5000, 10_000, 20_000, 50_000],
      }),
    ],
    marks: [
      {
        type: "group",
        from: { facet: { name: "series", data: "all", groupby: "name" } },
        marks: [
          {
            type: "line",
            from: { data: "series" },
            encode: {
              update: {
                x: { scale: "x", field: "bytes" },
                y: { scale: "y", field: "rate" },
                stroke: { scale: "colour", field: "name" },
                strokeWidth: { value: 2.5 },
              },
            },
          },
          {
            type: "symbol",
            from: { data: "series" },
            encode: {
              update: {
                x: { scale: "x", field: "bytes" },
                y: { scale: "y", field: "rate" },
                fill: { scale: "colour", field: "name" },
                size: { value: 45 },
              },
            },
          },
        ],
      },
    ],
    legends: [
      {
        stroke: "colour",
        symbolType: "stroke",
        symbolStrokeWidth: 3,
        orient: "top-right",
        labelFont: "DejaVu Sans",
        labelFontSize: 14,
        fillColor: "#ffffff",
        padding: 6,
      },
    ],
  };
  return new vega.View(vega.parse(spec), { renderer: "none" }).toSVG();
}
