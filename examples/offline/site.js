/** The site, for the server and for the worker: they answer alike. */
export default (source) => ({
  mounts: [
    {
      source,
      kind: "app",
      appShell: { file: "/index.html", except: ["/api"] },
      codings: { compress: false },
    },
  ],
});
