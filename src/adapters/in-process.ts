import { type BodyPlan, type ResponsePlan, releasePlan } from "../core/answer/plan.js";

/**
 * Reads the body of a plan as a client would receive it, and releases its file. Rejects when the file is shorter than the
 * plan promised: on a network the connection would end there.
 */
export async function readPlan(plan: ResponsePlan): Promise<Uint8Array> {
  try {
    return await readBody(plan.body);
  } finally {
    releasePlan(plan);
  }
}

async function readBody(body: BodyPlan): Promise<Uint8Array> {
  if (body.kind === "none") return new Uint8Array(0);
  if (body.kind === "bytes") return body.bytes;
  const total = body.parts.reduce((sum, part) => sum + part.length, 0);
  const whole = new Uint8Array(total);
  let at = 0;
  for (const part of body.parts) {
    const bytes = part instanceof Uint8Array ? part : await body.file.read(part.offset, part.length);
    if (bytes.length !== part.length) throw new Error("The file became shorter while it was read.");
    whole.set(bytes, at);
    at += bytes.length;
  }
  return whole;
}
