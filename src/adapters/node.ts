export { findConfigFile, loadConfigFile } from "../config/config-file.js";
export type { Delivery } from "./deliver-pieces.js";
export {
  fileHandler,
  type NodeHandler,
  type NodeHandlerOptions,
  nodeHandler,
  type ResponseRecord,
} from "./node-handler.js";
export { type RunningServer, type ServerOptions, StartError, startServer } from "./server.js";
