// A listing is JSON for who asks so.
const response = await fetch("/records/2026/", { headers: { Accept: "application/json" } });
const { entries } = await response.json();
for (const { name, href, size } of entries) {
  const row = document.querySelector("tbody").insertRow();
  const link = document.createElement("a");
  link.href = new URL(href, response.url);
  link.textContent = name;
  row.insertCell().append(link);
  row.insertCell().textContent = size.toLocaleString("en");
}

const form = document.querySelector("form");
form.addEventListener("submit", async (event) => {
  event.preventDefault();
  const [file] = form.elements.file.files;
  const answer = await fetch(`/uploads/${encodeURIComponent(file.name)}`, { method: "PUT", body: file });
  form.querySelector("[role=status]").textContent = answer.ok
    ? `${file.name} is there.`
    : await answer.text();
});
