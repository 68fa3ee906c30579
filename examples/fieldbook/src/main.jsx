import { render } from "preact";
import { App } from "./app.jsx";

const place = document.querySelector("#app");
place.replaceChildren();
render(<App />, place);
