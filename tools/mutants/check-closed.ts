// Modules are shared by the files of a run, so what one of them hooks in while it is loaded is hooked in for the first file alone.
import { afterEach } from "vitest";
import { checkClosed } from "../../test/counting-source.js";

afterEach(checkClosed);
