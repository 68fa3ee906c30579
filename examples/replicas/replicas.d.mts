export interface Replica {
  readonly folder: string;
  readonly port: number;
  start(): Promise<void>;
  stop(): Promise<void>;
}
export function startReplicas(options: {
  readonly folder: string;
  readonly ports: readonly number[];
  readonly config: string;
  readonly site?: string;
  readonly log?: (replica: number, line: string) => void;
}): Promise<Replica[]>;
