// The page is there already; the browser adds what needs one.
const button = document.querySelector("button");
button?.addEventListener("click", () => {
  const count = document.querySelector("output");
  count.value = String(Number(count.value) + 1);
});
