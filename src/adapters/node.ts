export { findConfigFile, loadConfigFile } from "../config/config-file.js";
export { type WrittenSeal, writeSeal } from "../site/write-seal.js";
export { type CutOff, type Delivery, describeCutOff } from "./delivery.js";
export {
  fileHandler,
  type NodeHandler,
  type NodeHandlerOptions,
  nodeHandler,
  type ResponseRecord,
} from "./node-handler.js";
export { type RunningServer, type ServerOptions, StartError, startServer } from "./server.js";
