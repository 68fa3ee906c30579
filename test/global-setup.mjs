// Tests of the command line, of documentation and of other processes run what was built: never what was built before.
import { build } from "../tools/setup.mjs";

export function setup() {
  build();
}
