// The season report: a real PDF of two pages, the same bytes each time it is made.
import { PDFDocument, rgb, StandardFonts } from "pdf-lib";

const SEA = rgb(0.043, 0.333, 0.388);
const INK = rgb(0.11, 0.137, 0.149);
const QUIET = rgb(0.337, 0.38, 0.408);

export async function makeReport(season) {
  const pdf = await PDFDocument.create({ updateMetadata: false });
  const date = new Date(Date.UTC(2026, 10, 2));
  pdf.setTitle("Season report 2026");
  pdf.setAuthor("Larkholm Bird Observatory");
  pdf.setCreationDate(date);
  pdf.setModificationDate(date);
  const serif = await pdf.embedFont(StandardFonts.TimesRoman);
  const bold = await pdf.embedFont(StandardFonts.TimesRomanBold);

  const first = pdf.addPage([595, 842]);
  first.drawText("Larkholm Bird Observatory", { x: 60, y: 760, size: 12, font: serif, color: QUIET });
  first.drawText("Season report 2026", { x: 60, y: 716, size: 34, font: bold, color: INK });
  first.drawRectangle({ x: 60, y: 696, width: 475, height: 5, color: SEA });
  const lines = [
    `${season.hoursInTheField.toLocaleString("en-GB")} hours in the field, from the north hide to the spit.`,
    "The tern colony on the shingle had its best season since the fence went up,",
    "three red-necked phalaropes came to the new ponds in June, and the wet",
    "meadow held redshank through the dry weeks of May.",
  ];
  for (const [i, line] of lines.entries()) {
    first.drawText(line, { x: 60, y: 660 - i * 20, size: 13, font: serif, color: INK });
  }
  first.drawText("Birds counted, by month", { x: 60, y: 540, size: 15, font: bold, color: INK });
  const most = Math.max(...season.months.map(({ birds }) => birds));
  season.months.forEach(({ month, birds }, i) => {
    const height = (birds / most) * 220;
    first.drawRectangle({ x: 62 + i * 40, y: 280, width: 26, height, color: SEA });
    first.drawText(month, { x: 64 + i * 40, y: 264, size: 10, font: serif, color: QUIET });
    first.drawText(String(birds), { x: 64 + i * 40, y: 285 + height, size: 9, font: serif, color: INK });
  });

  const second = pdf.addPage([595, 842]);
  second.drawText("Species of the field guide", { x: 60, y: 760, size: 22, font: bold, color: INK });
  second.drawRectangle({ x: 60, y: 744, width: 475, height: 4, color: SEA });
  season.species.forEach(({ name, latin, count }, i) => {
    const y = 712 - i * 28;
    second.drawText(name, { x: 60, y, size: 13, font: bold, color: INK });
    second.drawText(latin, { x: 250, y, size: 12, font: serif, color: QUIET });
    second.drawText(String(count).padStart(5), { x: 480, y, size: 13, font: serif, color: INK });
  });
  return pdf.save({ useObjectStreams: false });
}
