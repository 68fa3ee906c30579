/** What a table has under a name; what every object inherits, such as `constructor`, counts for nothing. */
export function own<Value>(table: Readonly<Record<string, Value>>, name: string): Value | undefined {
  return Object.hasOwn(table, name) ? table[name] : undefined;
}
