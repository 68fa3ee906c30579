const state = document.querySelector("#state");
const bird = /^\/birds\/(\w+)$/.exec(location.pathname)?.[1];
if (bird !== undefined) document.querySelector("h1").textContent = bird;
await navigator.serviceWorker.register("/worker.js");
await navigator.serviceWorker.ready;
state.textContent = "Everything is here, also off line.";
