const state = document.querySelector("#state");
const bird = /^\/birds\/(\w+)$/.exec(location.pathname)?.[1];
if (bird !== undefined) document.querySelector("h1").textContent = bird;
for (const link of document.querySelectorAll("nav a"))
  if (link.pathname === location.pathname) link.setAttribute("aria-current", "page");

// A worker needs HTTPS, or this machine; a browser may refuse it, too.
try {
  if (navigator.serviceWorker === undefined)
    throw new Error("this browser runs no Service Worker at this address");
  await navigator.serviceWorker.register("/worker.js");
  await Promise.race([navigator.serviceWorker.ready, refuseAfter(20_000)]);
  state.textContent = "Everything is here, also off line.";
} catch (error) {
  state.textContent = `This page needs the network each time: ${error.message}.`;
}

function refuseAfter(milliseconds) {
  return new Promise((_, refuse) =>
    setTimeout(() => refuse(new Error("the worker did not start")), milliseconds),
  );
}
