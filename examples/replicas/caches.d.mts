export interface RunningCache {
  readonly url: string;
  close(): Promise<void>;
}
export const cacheNames: readonly ("squid" | "varnish")[];
export function startCache(
  name: "squid" | "varnish",
  options: { readonly folder: string; readonly port: number; readonly replicas: readonly number[] },
): Promise<RunningCache>;
