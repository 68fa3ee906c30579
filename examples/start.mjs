// What the examples' start files have in common: they build what is to be built, listen, and say what is worth opening.

/** Starts an example's server. `paths` are addresses worth opening, each with a word about it. */
export async function start(title, { build, makeServer }, paths) {
  await build?.();
  const port = Number(process.env.PORT ?? 8080);
  const server = await makeServer();
  server.once("error", (error) => {
    const inUse = error.code === "EADDRINUSE";
    console.error(inUse ? `Port ${port} is in use; choose another: PORT=0 takes a free one.` : error.message);
    process.exit(2);
  });
  server.listen(port, "127.0.0.1", () => {
    const address = `http://127.0.0.1:${server.address().port}`;
    const rows = Object.entries(paths).map(([path, what]) => `  ${(address + path).padEnd(56)}${what}`);
    console.log(`${title} listens on ${address}/\n\nWorth opening:\n${rows.join("\n")}\n`);
  });
  for (const signal of ["SIGINT", "SIGTERM"]) {
    process.once(signal, () => {
      server.close();
      server.closeAllConnections();
    });
  }
}
