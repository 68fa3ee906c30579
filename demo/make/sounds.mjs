// Calls, synthesised: sweeps from one frequency to another, with an overtone and soft edges, as 16-bit mono WAV.

export const RATE = 11_025;

/** A recording of a call, repeated until `seconds` are full. Notes are [from Hz, to Hz, seconds]; 0 Hz is a pause. */
export function recordCall({ call, rough = false }, seconds) {
  const samples = new Int16Array(Math.round(seconds * RATE));
  const random = makeRandom(call.length * 7919 + call[0][0]);
  let at = Math.round(0.12 * RATE);
  for (let _pass = 0; at < samples.length; _pass++) {
    const strength = 0.55 + 0.25 * random();
    for (const [from, to, length] of call) {
      const count = Math.round(length * RATE * (0.94 + 0.12 * random()));
      if (from > 0) sweep(samples, at, count, from, to, strength, rough);
      at += count;
    }
    at += Math.round((0.25 + 0.3 * random()) * RATE);
  }
  for (let i = 0; i < samples.length; i++) samples[i] += Math.round((random() - 0.5) * 130);
  return wrapWav(samples);
}

function sweep(samples, start, count, from, to, strength, rough) {
  let phase = 0;
  for (let i = 0; i < count && start + i < samples.length; i++) {
    const t = i / count;
    phase += (2 * Math.PI * (from + (to - from) * t)) / RATE;
    const edge = Math.min(1, 18 * t, 14 * (1 - t));
    const tremble = rough ? 0.65 + 0.35 * Math.sin(2 * Math.PI * 62 * (i / RATE)) : 1;
    const tone = Math.sin(phase) + 0.22 * Math.sin(2 * phase) + (rough ? 0.3 * Math.sin(3 * phase) : 0);
    samples[start + i] += Math.round(tone * edge * tremble * strength * 14_000);
  }
}

function wrapWav(samples) {
  const header = Buffer.alloc(44);
  const bytes = samples.length * 2;
  header.write("RIFF", 0, "latin1");
  header.writeUInt32LE(36 + bytes, 4);
  header.write("WAVEfmt ", 8, "latin1");
  header.writeUInt32LE(16, 16);
  header.writeUInt16LE(1, 20);
  header.writeUInt16LE(1, 22);
  header.writeUInt32LE(RATE, 24);
  header.writeUInt32LE(RATE * 2, 28);
  header.writeUInt16LE(2, 32);
  header.writeUInt16LE(16, 34);
  header.write("data", 36, "latin1");
  header.writeUInt32LE(bytes, 40);
  return Buffer.concat([header, Buffer.from(samples.buffer, 0, bytes)]);
}

/** A small linear congruential generator: the same numbers on every machine. */
export function makeRandom(seed) {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
}
