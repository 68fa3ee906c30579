import { expect, test } from "vitest";
import { findExposure, findFolderExposure } from "../src/config/exposures.js";
import { type MountConfig, memorySource, openSite, type SiteConfig, type SiteError } from "../src/index.js";
import { compileSite } from "../src/site/compile-site.js";
import { glanceAt } from "../src/site/quick-look.js";
import { makeTree } from "./helpers.js";

// Names that stand for what nobody should get, and names that only look like them. Names are separated by commas.
const split = (names: string): string[] => names.split(", ");

/** The names that are meant and not found, and those that are found and not meant. */
function wrong(find: typeof findExposure, code: string, meant: string, not: string): [string[], string[]] {
  const isFound = (name: string): boolean => find(`sub/${name}`)?.code === code;
  return [split(meant).filter((name) => !isFound(name)), split(not).filter(isFound)];
}

test.each<[code: string, meant: string, not: string]>([
  [
    "private-key",
    "id_rsa, id_dsa, id_ecdsa, id_ed25519, sub/ID_RSA, a.ppk, a.p12, a.pfx, a.jks, a.keystore, a.key, server.pem",
    "id_rsa.pub, my_id_rsa, id_rs, p12, pfx.txt, keys.keyring, a.pem.txt",
  ],
  [
    "credentials",
    "secret.json, secrets.yaml, credential.yml, credentials.txt, password.csv, passwords.toml, secrets.ini, secrets.xml, htpasswd, birds-2.kdbx",
    "secretary.json, my-secrets.json, secrets.json.md, .kdbx, secrets, htpasswds, myhtpasswd, birds.kdbx1, bird table.kdbx",
  ],
  [
    "environment-file",
    ".env, env, prod.env, .env.local, env.json, .env.bak, .env.old, .env.txt, .env.production, .env.prod, .env.development, .env.test, .env.staging, .env.production.local",
    "environment.html, .env.example, my.environment, .env.md, envoy.local, .env.prod.md, venv.json, myenv, .envs, .env.local.txt",
  ],
  [
    "editor-leftover",
    "thumbs.db, Thumbs.db, desktop.ini, ehthumbs.db, larkholm-2.code-workspace",
    "desktop.ini.txt, .code-workspace, thumbs.dbx, mydesktop.ini, a.code-workspace.txt, bird table.code-workspace",
  ],
  [
    "database",
    "a.sqlite, a.sqlite3, a.s3db, a.db, a.db3, a.mdb, a.accdb, a.dbf, a.rdb",
    "a.dbx, sqlite, a.sqlite4, a.sqlite.txt, thumbs.db",
  ],
  [
    "database-dump",
    "backup.sql, birds.sql, birds.dump, birds.sql.gz, birds.sql.bz2, birds.sql.xz, birds.dump.zst, birds.sql.zip, my dump of birds.sql",
    "sql, dump, birds.sqlx, birds.sql.txt, birds.dumps, birds.sql.gzip, birds.sql.gz.md",
  ],
  [
    "site-archive",
    "backup.zip, site.tar, website.tgz, www.7z, public.rar, public_html.tar.gz, htdocs.tar.bz2, html.tar.xz, web.tar.zst, dist.zip, build.zip, release.zip, old.zip, copy.zip, archive.zip, dump.zip, site-2026.zip, site_2026-11.zip, site2.zip, backup-monday.zip, backup of birds.gz",
    "birds.zip, mysite.zip, site.zipx, site-birds.zip, website.html, backups.zip.txt, site-.zip, backupbirds.gz, site.tar.br, mybackup.zip, backup.html",
  ],
  [
    "backup-copy",
    "a.bak, a.old, a.orig, a.rej, a.save, a.swp, a.swo, a.html~, #a.html#, copy of a.html, a - copy.html, a - copy (2).html, a - copy (12).html",
    "a.bakery, ~a, bold, #a.html, a#, x#a#, my copy of a.html, a - copy, a - copy (x).html, a - copy ().html, a - copying.html, a - copy.html gone?",
  ],
  [
    "server-source",
    "a.php, a.php7, a.phtml, a.phps, a.asp, a.aspx, a.ashx, a.jsp, a.jspx, a.cgi, a.pl, a.erb, a.ejs, a.pug, a.twig, a.cshtml",
    "a.phpx, aphp, a.php77, a.plx, a.asp.txt",
  ],
  [
    "source",
    "a.py, a.rb, a.go, a.rs, a.java, a.kt, a.cs, a.c, a.cc, a.cpp, a.swift, a.ts, a.tsx, a.jsx, a.vue, a.svelte, a.scss, a.sass, a.less, a.sh, a.bash, a.ps1, a.bat, a.cmd",
    "a.js, a.mjs, a.css, a.cxx, a.tsv, py, a.py.txt",
  ],
  [
    "project-file",
    "package.json, package-lock.json, npm-shrinkwrap.json, yarn.lock, pnpm-lock.yaml, pnpm-lock.yml, pnpm-workspace.yaml, tsconfig.json, tsconfig.build.json, composer.json, composer.lock, gemfile, Gemfile.lock, requirements.txt, requirements-dev.txt, pyproject.toml, pipfile, pipfile.lock, cargo.toml, cargo.lock, go.mod, go.sum, pom.xml, build.gradle, build.gradle.kts, Dockerfile, containerfile, compose.yaml, docker-compose.yml, docker-compose.test.yml, Makefile, procfile, epistyle.config.yaml, vite.config.ts, a.config.cjs, a.config.mts, a.config.json, expectations.yaml, expectations.yml, birds.expectations.yaml",
    "package.json5, my-package.json, lock.json, tsconfigs.json, my-tsconfig.json, composer.jsonl, gemfile.locks, requirements.md, cargo.tom, go.mode, build.gradle.kt, dockerfiles, my-dockerfile, compose.yam, docker.yml, makefile.txt, .config.yaml, vite.config, vite.config.css, expectations.json, .expectations.yaml, myyarn.lock, requirements of birds.txt, my expectations.yaml, tsconfig.a b.json",
  ],
  [
    "configuration",
    "a.ini, a.conf, a.cfg, a.properties, a.service, config.yaml, settings.yml, application.toml",
    "ini, a.config, my-config.yaml, config.json, settings.yaml.txt, a.ini2, a.confetti",
  ],
  [
    "log-file",
    "a.log, a.log.1, a.log.12, a.log.gz, a.log.2.gz, nohup.out",
    "a.logs, alog, a.log.x, nohup.output, mynohup.out, a.log.gzip",
  ],
])("files: %s", (code, meant, not) => {
  expect(wrong(findExposure, code, meant, not)).toEqual([[], []]);
});

test.each<[code: string, meant: string, not: string]>([
  [
    "version-control",
    ".git, .svn, .hg, .bzr, cvs, CVS, _svn, _darcs, birds.git",
    "git, .github, .gitlab, mycvs, .hgs, _darcs2, .git.txt",
  ],
  [
    "dependencies",
    "node_modules, bower_components, site-packages, __pycache__, .venv, venv",
    "my_node_modules, node_modules2, venvs, packages",
  ],
  ["editor-leftover", ".vscode, .idea", "vscode, .ideas, my.idea, .vscode-test"],
])("folders: %s", (code, meant, not) => {
  expect(wrong(findFolderExposure, code, meant, not)).toEqual([[], []]);
});

test("the name decides before the content does", () => {
  expect(
    ["server.key", "id_rsa", "copy of server.key", "birds.html"].map((name) => [
      findExposure(name)?.code,
      findExposure(name)?.byContent,
    ]),
  ).toEqual([
    ["private-key", true],
    ["private-key", undefined],
    ["backup-copy", undefined],
    [undefined, undefined],
  ]);
});

const KEYS = "everybody can get private keys of";
test.each<[title: string, files: string, rules: MountConfig, told: string[]]>([
  ["nothing severe", "index.html, a.key, birds.sqlite, old.bak, .env, .git/HEAD", {}, []],
  [
    "a key",
    "index.html, id_rsa",
    {},
    [
      `The mount at /site: ${KEYS} public: /site/id_rsa is reachable. Write withheld: ["id_rsa"], or remove it; epistyle survey finds the rest.`,
    ],
  ],
  [
    "several, below another folder",
    "a/id_rsa, b c/id_dsa, x.p12",
    {},
    [`${KEYS} public: /site/x.p12, and 2 more, is reachable. Write withheld: ["x.p12"]`],
  ],
  [
    "a folder that is meant as a whole",
    "node_modules/x/id_rsa, cvs/entries",
    {},
    [
      "everybody can get dependencies of public: /site/node_modules is",
      "everybody can get version control of public: /site/cvs is",
    ],
  ],
  ["too deep for a glance", "a/b/id_rsa", {}, []],
  ["withheld", "id_rsa, a/id_rsa", { withheld: ["id_rsa"] }, []],
  [
    "a project",
    "package.json, src/a.ts",
    {},
    [
      "The mount at /site: public is a whole project, so everybody can get its source and its dependencies. Serve the output folder of its build; epistyle survey says more.",
    ],
  ],
  ["a project by its script", "package.json, main.js", {}, ["public is a whole project"]],
  ["a project by its dependencies", "package.json, vendor/x.css", {}, ["public is a whole project"]],
  ["a project by its program", "Dockerfile, server.mjs", {}, ["public is a whole project"]],
  ["a file of a project alone", "package.json, index.html", {}, []],
  ["a program alone", "main.js, src/a.js", {}, []],
  ["a page's own settings", "site.config.js, app.js", {}, []],
  [
    "names that only look like a program",
    "package.json, myserver.js, server.json, srcs/a, index.jsx",
    {},
    [],
  ],
])("a glance at the start, which refuses what is severe: %s", async (_title, files, rules, told) => {
  const tree = await makeTree(Object.fromEntries(split(files).map((name) => [`public/${name}`, "x"])));
  const outcome = await openSite({
    base: tree.root,
    refuse: "severe",
    mounts: [{ at: "/site", folder: "public", ...rules }],
  }).then(
    () => [],
    (error: SiteError) => error.problems,
  );
  await tree.remove();
  // A folder's names come in no order.
  expect(outcome.toSorted()).toEqual(told.map((part) => expect.stringContaining(part)));
});

test("a glance ends after a time", async () => {
  const { compiled } = await compileSite(
    { mounts: [{ source: memorySource({ id_rsa: "", "a/id_rsa": "", "b/id_rsa": "" }) }] } as SiteConfig,
    {},
  );
  const [mount] = [...compiled.mounts.values()];
  const told = await Promise.all(
    [0, 20, 60].map((step) => {
      let now = 0;
      return glanceAt(mount!, { clock: () => (now += step) });
    }),
  );
  expect(told.map(([first]) => /, and (\d) more/.exec(first ?? "")?.[1] ?? first?.length)).toEqual([
    "2",
    "1",
    undefined,
  ]);
});

test("what is meant to be reached does not stop the start, and all else does", async () => {
  const tree = await makeTree({ "public/records.git/HEAD": "x", "public/id_rsa": "x" });
  const open = (except: string[]) =>
    openSite({
      base: tree.root,
      refuse: { severity: "severe", except },
      mounts: [{ folder: "public" }],
    }).then(
      () => [],
      (error: SiteError) => error.problems,
    );
  expect(await open(["records.git/", "id_rsa"])).toEqual([]);
  expect(await open(["records.git/"])).toEqual([expect.stringContaining("/id_rsa is reachable")]);
  await tree.remove();
});
