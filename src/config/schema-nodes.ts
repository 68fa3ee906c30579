import type * as z from "zod";

/** What a schema has at a path: several where it has several forms. */
export function nodesAt(schema: z.ZodType, path: readonly PropertyKey[]): z.ZodType[] {
  let nodes: z.ZodType[] = [schema];
  for (const key of path) nodes = nodes.flatMap((node) => step(node, key));
  return nodes;
}

/** The keys a schema allows at a path. */
export function keysAt(schema: z.ZodType, path: readonly PropertyKey[]): string[] {
  const nodes = nodesAt(schema, path);
  return [...new Set(nodes.flatMap(unwrap).flatMap((node) => namesOf(node)))];
}

interface Definition {
  type: string;
  shape?: Record<string, z.ZodType>;
  element?: z.ZodType;
  valueType?: z.ZodType;
  keyType?: z.ZodType;
  entries?: Record<string, string>;
  innerType?: z.ZodType;
  options?: z.ZodType[];
}

const definitionOf = (node: z.ZodType): Definition => node._zod.def as unknown as Definition;

/** The keys of a group; those of a record, where it has only certain ones. */
function namesOf(node: z.ZodType): string[] {
  const { shape, keyType } = definitionOf(node);
  if (shape !== undefined) return Object.keys(shape);
  return keyType === undefined ? [] : Object.keys(definitionOf(keyType).entries ?? {});
}

/** What is inside of optional keys and unions. */
export function unwrap(node: z.ZodType): z.ZodType[] {
  const { innerType, options } = definitionOf(node);
  if (innerType !== undefined) return unwrap(innerType);
  return options === undefined ? [node] : options.flatMap(unwrap);
}

function step(node: z.ZodType, key: PropertyKey): z.ZodType[] {
  return unwrap(node).flatMap((inner) => {
    const { shape, element, valueType } = definitionOf(inner);
    const next = shape?.[String(key)] ?? element ?? valueType;
    return next === undefined ? [] : [next];
  });
}
