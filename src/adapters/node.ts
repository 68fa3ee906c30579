export { findConfigFile, loadConfigFile } from "../config/config-file.js";
export { type WrittenSeal, writeSeal } from "../site/write-seal.js";
export type { Client, Proxies } from "./client.js";
export { type CutOff, type Delivery, describeCutOff } from "./delivery.js";
export { formatLogHead, formatLogLine, type LineForm, type LineOptions } from "./log/lines.js";
export type { LogFormInCode, Logging } from "./log/start-log.js";
export {
  fileHandler,
  type NodeHandler,
  type NodeHandlerOptions,
  nodeHandler,
} from "./node-handler.js";
export type { ResponseRecord } from "./response-record.js";
export type { TlsOptions } from "./server/certificate.js";
export { StartError } from "./server/place.js";
export { type CloseOptions, type RunningServer, type ServerOptions, startServer } from "./server/server.js";
