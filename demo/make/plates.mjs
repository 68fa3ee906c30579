// Plates of the field guide: each bird drawn from a handful of measures, standing on the beam of the page.

const round = (n) => Math.round(n * 10) / 10;

export function drawPlate(bird) {
  const drawing = bird.plate.owl ? drawOwl(bird.plate) : drawBird(bird.plate);
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 300" role="img" aria-label="${bird.name}">
<rect width="400" height="300" fill="#f6f2e8"/>
<circle cx="206" cy="138" r="112" fill="${bird.plate.disc}"/>
${drawing}
<rect x="28" y="258" width="344" height="6" fill="#0b5563"/>
</svg>
`;
}

function drawBird(p) {
  const size = p.size ?? 1;
  const legs = p.legLength ?? 40;
  const depth = 46 * (p.depth ?? 1);
  const ground = 258;
  const bodyY = ground - (legs + depth * size);
  const tail = p.tail ?? 46;
  const place = `translate(${214 + Math.max(0, p.billLength - 50) * 0.5} ${round(bodyY)}) scale(${size})`;
  const parts = [];
  // Legs first: they stand behind the body.
  for (const [x, lean] of [
    [-6, -4],
    [16, 6],
  ]) {
    const foot = legs / size + depth - 4;
    parts.push(
      `<path d="M${x} ${round(depth * 0.7)} L${x + lean} ${round(foot * 0.6 + 8)} L${x} ${round(foot)} m-16 2 h24" fill="none" stroke="${p.legs}" stroke-width="4.5" stroke-linecap="round" stroke-linejoin="round"/>`,
    );
  }
  // Tail.
  parts.push(
    p.fork
      ? `<path d="M62 -4 L${62 + tail} -34 L${40 + tail * 0.62} -2 L${58 + tail} 22 L58 16 Z" fill="${p.back}"/>`
      : `<path d="M58 -14 L${62 + tail} -10 L${60 + tail} 8 L54 22 Z" fill="${p.wing}"/>`,
  );
  // Body: a back line and a belly line, then the neck and the head.
  parts.push(
    `<path d="M-74 -40 C-52 -58 24 -${round(depth + 2)} 84 2 C56 40 12 ${round(depth + 4)} -34 ${round(depth * 0.8)} C-82 26 -92 -12 -74 -40 Z" fill="${p.belly}"/>`,
  );
  parts.push(
    `<path d="M-84 -34 C-58 -66 24 -${round(depth + 2)} 84 2 C44 10 -10 4 -46 -4 C-62 -8 -76 -18 -84 -34 Z" fill="${p.back}"/>`,
  );
  parts.push(
    `<path d="M-104 -62 C-104 -88 -66 -92 -56 -62 C-52 -44 -50 -30 -40 -14 C-58 8 -84 4 -88 -22 C-92 -38 -104 -46 -104 -62 Z" fill="${p.head}"/>`,
  );
  if (p.throat)
    parts.push(
      `<path d="M-98 -44 C-86 -34 -66 -34 -56 -48 C-50 -28 -52 -14 -60 -4 C-78 2 -88 -14 -90 -28 Z" fill="${p.throat}"/><path d="M-100 -50 C-92 -42 -82 -42 -74 -48 C-80 -56 -94 -58 -100 -50 Z" fill="#f4f1ea"/>`,
    );
  if (p.cap)
    parts.push(`<path d="M-106 -66 C-104 -92 -62 -94 -54 -62 C-70 -66 -90 -70 -106 -66 Z" fill="${p.cap}"/>`);
  if (p.crest)
    parts.push(`<path d="M-96 -80 C-86 -98 -64 -100 -48 -92 C-58 -86 -64 -78 -66 -72 Z" fill="${p.head}"/>`);
  if (p.mask)
    parts.push(
      `<path d="M-106 -64 C-92 -70 -70 -70 -52 -58 C-58 -48 -72 -48 -84 -54 Z" fill="${p.mask}"/><path d="M-104 -70 C-88 -78 -70 -76 -54 -66" fill="none" stroke="#fbfaf6" stroke-width="5" stroke-linecap="round"/>`,
    );
  // Bill.
  const bill = p.billLength;
  const curve = p.billCurve;
  parts.push(
    `<path d="M-102 -70 Q${round(-102 - bill * 0.6)} ${round(-68)} ${round(-102 - bill)} ${round(-60 + curve)} Q${round(-102 - bill * 0.55)} ${round(-60 + curve * 0.12)} -102 -58 Z" fill="${p.bill}"/>`,
  );
  if (p.billBase)
    parts.push(
      `<path d="M-101 -70 Q${round(-101 - bill * 0.25)} -69 ${round(-101 - bill * 0.4)} ${round(-66 + curve * 0.14)} L${round(-101 - bill * 0.4)} ${round(-61 + curve * 0.12)} Q${round(-101 - bill * 0.2)} -58 -101 -58 Z" fill="${p.billBase}"/>`,
    );
  if (p.spots || p.streaks) {
    for (let i = 0; i < 14; i++) {
      const x = -66 + (i % 7) * 12 + (i > 6 ? 6 : 0);
      const y = 6 + (i > 6 ? 14 : 0) + (i % 3) * 4;
      parts.push(
        p.streaks
          ? `<path d="M${x} ${y - 8} l2 9" stroke="${p.wing}" stroke-width="2.6" stroke-linecap="round"/>`
          : `<circle cx="${x}" cy="${y}" r="2.4" fill="${p.wing}" fill-opacity=".8"/>`,
      );
    }
  }
  // Wing with its feather lines.
  parts.push(
    `<path d="M-44 -26 C-14 -46 46 -34 104 6 C60 16 4 30 -30 8 C-44 -2 -50 -14 -44 -26 Z" fill="${p.wing}"/>`,
  );
  for (const [a, b, c] of [
    [-18, 14, 74],
    [-4, 4, 66],
    [8, -8, 58],
  ]) {
    parts.push(
      `<path d="M${a - 14} ${round(b - 10)} C${a + 20} ${round(b - 4)} ${c - 20} ${round(b - 6)} ${c + 14} ${round(b * 0.4 + 2)}" fill="none" stroke="${p.belly}" stroke-opacity=".45" stroke-width="2.2" stroke-linecap="round"/>`,
    );
  }
  parts.push(
    `<circle cx="-82" cy="-66" r="5.4" fill="#16191b"/><circle cx="-83.6" cy="-67.6" r="1.7" fill="#fff"/>`,
  );
  return `<g transform="${place}">${parts.join("\n")}</g>`;
}

function drawOwl(p) {
  const flecks = [];
  for (let row = 0; row < 5; row++) {
    for (let col = 0; col < 5 - (row % 2); col++) {
      flecks.push(
        `<path d="M${-32 + col * 16 + (row % 2) * 8} ${16 + row * 18} v10" stroke="${p.wing}" stroke-width="3.4" stroke-linecap="round"/>`,
      );
    }
  }
  return `<g transform="translate(204 128)">
<path d="M-14 108 v22 m-9 0 h18 M16 108 v22 m-9 0 h18" stroke="${p.legs}" stroke-width="9" stroke-linecap="round" fill="none"/>
<path d="M-58 -22 C-74 30 -58 104 0 122 C58 104 74 30 58 -22 Z" fill="${p.belly}"/>
${flecks.join("\n")}
<path d="M-56 -28 C-92 20 -88 96 -44 120 C-56 84 -56 30 -40 -6 Z" fill="${p.wing}"/>
<path d="M56 -28 C92 20 88 96 44 120 C56 84 56 30 40 -6 Z" fill="${p.wing}"/>
<path d="M-24 -84 l8 -16 l8 18 M24 -84 l-8 -16 l-8 18" fill="${p.back}"/>
<path d="M-66 -42 C-66 -104 66 -104 66 -42 C66 4 34 18 0 18 C-34 18 -66 4 -66 -42 Z" fill="${p.head}"/>
<path d="M0 -66 C-12 -88 -56 -82 -56 -40 C-56 -4 -20 8 0 6 C20 8 56 -4 56 -40 C56 -82 12 -88 0 -66 Z" fill="#f5ead2"/>
<ellipse cx="-26" cy="-38" rx="20" ry="21" fill="#33291f"/><ellipse cx="26" cy="-38" rx="20" ry="21" fill="#33291f"/>
<circle cx="-25" cy="-37" r="13" fill="#f0c23a"/><circle cx="25" cy="-37" r="13" fill="#f0c23a"/>
<circle cx="-24" cy="-36" r="6.6" fill="#16191b"/><circle cx="24" cy="-36" r="6.6" fill="#16191b"/>
<path d="M-7 -26 Q0 -34 7 -26 Q5 -8 0 -4 Q-5 -8 -7 -26 Z" fill="${p.bill}"/>
</g>`;
}

/** The view from the north hide: what the front page opens with, and the raster picture is made of. */
export function drawLandscape() {
  const birds = [
    [690, 190, 1],
    [752, 152, 0.8],
    [806, 206, 0.7],
    [884, 148, 0.6],
    [636, 246, 0.55],
    [1010, 206, 0.8],
    [968, 250, 0.5],
  ]
    .map(
      ([x, y, s]) =>
        `<path transform="translate(${x} ${y}) scale(${s})" d="M-34 -8 Q-16 -22 0 0 Q16 -22 34 -8 Q15 -13 0 8 Q-15 -13 -34 -8 Z" fill="#1c2f36"/>`,
    )
    .join("\n");
  const waves = Array.from({ length: 22 }, (_, i) => {
    const y = 352 + i * 9 + i * i * 0.18;
    const x = (i * 173) % 900;
    return `<path d="M${x} ${round(y)} q40 -5 80 0 t80 0" fill="none" stroke="#e9f1ee" stroke-opacity="${round(0.16 + i * 0.018)}" stroke-width="${round(1.4 + i * 0.12)}"/>`;
  }).join("\n");
  const grass = Array.from({ length: 120 }, (_, i) => {
    const x = (i * 97.3) % 1280;
    const height = 22 + ((i * 37) % 34);
    return `<path d="M${round(x)} 600 q${(i % 7) - 3} -${Math.round(height * 0.6)} ${((i * 13) % 15) - 7} -${height}" stroke="${i % 3 ? "#2f4a3d" : "#4d6a4c"}" stroke-width="3" fill="none" stroke-linecap="round"/>`;
  }).join("\n");
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1280 600" preserveAspectRatio="xMidYMid slice" role="img" aria-label="The view from the north hide: sea, stacks and the lighthouse in evening light">
<defs>
<linearGradient id="sky" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#cfe0e2"/><stop offset=".62" stop-color="#f3e3cd"/><stop offset="1" stop-color="#f5d3ae"/></linearGradient>
<linearGradient id="sea" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#7fa9ae"/><stop offset="1" stop-color="#0b5563"/></linearGradient>
</defs>
<rect width="1280" height="350" fill="url(#sky)"/>
<circle cx="830" cy="292" r="74" fill="#fbe9c8"/><circle cx="830" cy="292" r="46" fill="#fff6e2"/>
<path d="M0 330 L120 300 L210 312 L330 286 L470 322 L640 318 L760 332 L1280 326 V352 H0 Z" fill="#9db6b8"/>
<rect y="344" width="1280" height="256" fill="url(#sea)"/>
${waves}
<path d="M560 352 L574 296 L590 288 L604 300 L616 352 Z" fill="#3c5256"/><path d="M640 352 L650 318 L662 314 L672 352 Z" fill="#4a6165"/>
<path d="M930 600 C960 480 980 330 1050 300 C1090 284 1130 306 1160 300 C1210 290 1240 276 1280 270 V600 Z" fill="#2c4348"/>
<path d="M960 600 C1000 500 1010 372 1064 338 C1110 316 1180 330 1280 300 V600 Z" fill="#35524d"/>
<g><path d="M1120 300 l8 -118 h24 l8 118 Z" fill="#fbfaf6"/><path d="M1124.6 232 h31 l1.8 26 h-34.6 Z" fill="#b4502f"/><rect x="1122" y="176" width="36" height="7" fill="#1c2f36"/><rect x="1130" y="154" width="20" height="22" fill="#f0c23a"/><path d="M1126 154 L1140 138 L1154 154 Z" fill="#1c2f36"/></g>
${birds}
<path d="M0 600 V530 C160 500 300 566 470 548 C640 530 760 580 960 560 C1080 548 1180 560 1280 544 V600 Z" fill="#27403a"/>
${grass}
</svg>
`;
}

export const favicon = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 64"><rect width="64" height="64" rx="12" fill="#0b5563"/><path d="M8 30 Q20 14 32 34 Q44 14 56 30 Q43 25 32 44 Q21 25 8 30 Z" fill="#fbfaf6"/><rect x="10" y="50" width="44" height="4" fill="#f0c23a"/></svg>
`;
