import type { ChildProcess } from "node:child_process";

export interface StoreServer {
  readonly child: ChildProcess;
  readonly port: number;
  stop(signal?: NodeJS.Signals): Promise<void>;
}
export function startStoreServer(options: {
  readonly place: string;
  readonly folder: string;
  readonly port: number;
  readonly environment?: Readonly<Record<string, string>>;
  readonly log?: (line: string) => void;
  readonly args?: readonly string[];
}): Promise<StoreServer>;
