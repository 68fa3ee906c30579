import { mountLab } from "./mount.js";
import { connectToServer } from "./remote.js";

mountLab(document.querySelector("#lab")!, connectToServer());
