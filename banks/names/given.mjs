// Names as people and their cameras, offices and shops give them, in several languages: none has a fingerprint.
const TITLES =
  "Zugvögel-im-Herbst Brutvogelmonitoring Wiesenbrüterprogramm Jahresbericht Vogelstimmen-Kurs Naturschutzgebiete Oiseaux-migrateurs Rapport-annuel-des-observations Hirondelles-de-rivage compte-rendu-de-sortie Aves-migratorias Informe-anual-definitivo Guia-de-campo avistamientos-otono Uccelli-migratori Relazione-annuale campionamento-invernale guida-al-riconoscimento Trekvogels-langs-de-kust jaarverslag-definitief weidevogelbeheer Flyttfåglar-i-höst årsrapport-slutlig fältanteckningar ringmärkning Trækfugle-om-efteråret feltnoter-efterår Ptaki-wędrowne sprawozdanie-roczne obserwacje-jesienne przewodnik-terenowy Aves-de-rapina relatorio-trimestral observações-de-campo Season-Overview migration-summary ringing-protocol nestbox-checklist volunteer-handbook hide-opening-times shorebird-identification garden-birdwatch Curlew-and-Godwit Great-Crested-Grebe".split(
    " ",
  );
const PRODUCTS =
  "iPhone15Pro iPhone14ProMax Pixel8a GalaxyS23Ultra RTX4090Ti GTX1080Ti Ryzen7950X3D Core-i9-14900K EOS5DMarkIV EOSR6MarkII A7RIV D850body Z6IIbody X100VI GoPro12Black DJIMini4Pro WH-1000XM5 SM58vsSM57 QuietComfort45 SL-1200MK7 ThinkPadX1Carbon MacBookPro16 XPS13-9310 LaserJetM404dn ET-2850U HL-L2350DW RT-AX88U WRT1900ACS RaspberryPi4B ESP32-WROOM-32 ATmega328P STM32F103C8 LM317T_rev2 NE555P_SMD 74HC595N BC547B_2N3904 Model3LongRange F150Lightning A350-900ULR Tu154M C130J-30 Mk3S_MMU2 8x42HD-binoculars Scope-20-60x80 Tripod-MT055 SP404MKII TD-17KVX CR2032-battery 18650cells".split(
    " ",
  );
const STANDARDS =
  "RFC9110bis RFC8446 RFC2616obs rfc7231errata ISO8601 ISO9001v2015 ISO-27001-2022 ISO14001amd1 IEC60601-1-2 EN50126-1 EN12464part2 DIN-EN-13501-1 DIN_A4_quer IEEE802.11ax IEEE80211be IEEE754-2019 ITU-T-H264 H264vsH265 ECMA-262-15th ANSI-X3.4 BS7671amd2 VDE0100-410 NISTSP800-63B FIPS140-3 PCI-DSS-v4 SAEJ1772 USB4Gen3x2 PCIe5x16 HDMI2_1b DDR5vsDDR4 WPA2vsWPA3 WiFi6E_6GHz utf8mb4 es2015plus sha256sum x264-preset mp4a40_2 opus48kHz".split(
    " ",
  );
const REPORTS =
  "report-Q3final2 report-Q1draft3 minutes-2026-11-25 minutes_v2_final budget2026Q4 budget-FY26-final invoice-20261125 invoice-0004711 letter-v3-signed survey-results-2 plan-B-revised CV-2026-en protocol_3b_korr Anlage3b appendixA2 agenda-KW48 stats-H1vsH2 summary-final-final2 notes-copy-2 slides-16x9 handout-A4-2up poster-A0-print flyer-DINlang_web protokoll-rev12 sightings-cleaned ringing-data-raw season-total-by-species species-list-2026b count-by-hide-v4".split(
    " ",
  );
const VERSIONS = [
  "v1.24.0",
  "2.0.0-rc1",
  "v10.3.2-beta4",
  "1.0.0-alpha.12",
  "v2rc1build7",
  "24.04.1-LTS",
  "r1234567",
  "build-20261125",
  "v1.2.3-14-g3f2a91bc",
  "2026.11.25",
  "20261125.3",
  "v12b3",
];
const CAMERAS = [
  (n) => `IMG_${pad(n, 4)}`,
  (n) => `IMG_2026${pad(1 + (n % 12), 2)}${pad(1 + (n % 28), 2)}_${pad((n * 7919) % 240_000, 6)}`,
  (n) => `DSC${pad(n, 5)}`,
  (n) => `DSCN${pad(n, 4)}`,
  (n) => `P${1_010_000 + n}`,
  (n) => `GOPR${pad(n, 4)}`,
  (n) => `DJI_${pad(n, 4)}`,
  (n) => `PXL_2026${pad(1 + (n % 12), 2)}${pad(1 + (n % 28), 2)}_${pad((n * 104_729) % 1_000_000_000, 9)}`,
  (n) => `Screenshot 2026-11-${pad(1 + (n % 28), 2)} at ${n % 24}.${pad(n % 60, 2)}.${pad((n * 7) % 60, 2)}`,
  (n) => `photo-2026-${pad(1 + (n % 12), 2)}-${pad(1 + (n % 28), 2)}-${pad(n, 3)}`,
  (n) => `VID-2026${pad(1 + (n % 12), 2)}${pad(1 + (n % 28), 2)}-WA${pad(n, 4)}`,
  (n) => `2026${pad(1 + (n % 12), 2)}${pad(1 + (n % 28), 2)}T${pad((n * 7919) % 240_000, 6)}`,
];
const PLACES =
  "sunshine mountain Reedbeds northhide overview saltmarsh Lighthouse westbank clifftop EastPool estuary2 HideNo3".split(
    " ",
  );
const TAILS = ["", "", "-2", "_v2", "-final", "-2026", " (copy)", "-small", "@2x", "_1080p", "-en", "_neu"];
const EXTENSIONS = ".jpg .pdf .png .txt .docx .svg .csv .mp3 .zip .webp .mp4 .json".split(" ");

const pad = (number, digits) => String(number).padStart(digits, "0");

/** So many names, each once. */
export function givenNames(count, draw) {
  const one = (list) => list[Math.floor(draw() * list.length)];
  const kinds = [
    (n) => CAMERAS[n % CAMERAS.length](n),
    () => one(TITLES),
    () => one(PRODUCTS),
    () => one(STANDARDS),
    () => one(REPORTS),
    () => `${one(["larkholm", "guide", "app", "notes", "setup"])}-${one(VERSIONS)}`,
    () => `${one(["photo", "view", "hide", "Blick", "vue"])}-${one(PLACES)}`,
    () => `${one(REPORTS)}-${one(PLACES)}`,
    () => `${one(["spec", "datasheet", "manual", "Handbuch"])}-${one(PRODUCTS)}`,
    () => `${one(PRODUCTS)}-vs-${one(PRODUCTS)}`,
    () => `550e8400-e29b-41d4-a716-${pad(Math.floor(draw() * 1e12), 12)}`,
  ];
  const names = new Set();
  for (let n = 1; names.size < count; n++) names.add(one(kinds)(n) + one(TAILS) + one(EXTENSIONS));
  return [...names];
}
