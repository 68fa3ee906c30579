import { render } from "preact";
import type { LabConnection } from "../src/lab/shapes.js";
import { Lab } from "./lab.js";
import "./lab.css";

/** Shows a lab in an element of a page. */
export function mountLab(element: Element, connection: LabConnection): void {
  render(<Lab connection={connection} />, element);
}
