export function findMissing(): string | undefined;
export function startObjectStore(
  folder: string,
  bucket?: string,
): Promise<{
  readonly environment: Readonly<Record<string, string>>;
  readonly place: string;
  stop(): Promise<void>;
}>;
