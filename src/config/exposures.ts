/**
 * What should not be reachable, in one table: the packs ask for it, a draft does not expect it, the start warns of it, and the
 * survey looks for it.
 */
export type Severity = "severe" | "warning" | "advice";

export interface Exposure {
  /** Stable: a baseline and a suppression name it. */
  readonly code: string;
  readonly severity: Severity;
  /** What such files are, in the plural. */
  readonly what: string;
  /** Why they should not be reachable, in one sentence. */
  readonly reason: string;
  /** Names of files, in lower case. */
  readonly names?: RegExp;
  /** Names of folders, in lower case: all that is in one is meant. */
  readonly folders?: RegExp;
  /**
   * When such a file is meant for visitors all the same: `offered` when it is a download, is listed, or a page links to it. Left
   * out where it never is.
   */
  readonly unless?: "offered";
  /** The name alone says too little: the content has to say it, too. */
  readonly byContent?: true;
  /** Addresses that strangers try, from the site's root. */
  readonly tried: readonly string[];
}

export const EXPOSURES: readonly Exposure[] = [
  {
    code: "private-key",
    severity: "severe",
    what: "private keys",
    reason: "Anyone with the key can pretend to be this server, or log in where it is trusted.",
    names: /(?:^id_(?:rsa|dsa|ecdsa|ed25519)|\.(?:ppk|p12|pfx|jks|keystore))$/,
    tried: ["id_rsa", ".ssh/id_rsa", "cert.p12"],
  },
  {
    code: "private-key",
    severity: "severe",
    what: "private keys",
    reason: "Anyone with the key can pretend to be this server, or log in where it is trusted.",
    names: /\.(?:key|pem)$/,
    byContent: true,
    tried: ["server.key", "private.key", "key.pem"],
  },
  {
    code: "credentials",
    severity: "severe",
    what: "secrets",
    reason: "Anyone with the passwords can use what they protect.",
    names:
      /^(?:(?:secrets?|credentials?|passwords?)\.(?:json|ya?ml|txt|csv|toml|ini|xml)|htpasswd|[\w.-]+\.kdbx)$/,
    tried: [
      ".npmrc",
      "secrets.json",
      "credentials.json",
      "passwords.txt",
      ".aws/credentials",
      "passwords.kdbx",
    ],
  },
  {
    code: "environment-file",
    severity: "severe",
    what: "environment files",
    reason: "They contain the passwords and addresses of the program.",
    names: /(?:^|\.)env$|(?:^|\.)env\.(?:local|json|bak|old|txt|(?:prod|dev|test|stag)\w*(?:\.local)?)$/,
    tried: [".env", ".env.local", ".env.production", "settings.env", "env.json"],
  },
  {
    code: "version-control",
    severity: "severe",
    what: "version control",
    reason: "It contains every version of the source, also everything that was ever deleted.",
    folders: /^(?:\.svn|\.hg|\.bzr|cvs|_svn|_darcs)$|\.git$/,
    tried: [".git/HEAD", ".git/config", ".git/index", ".svn/entries", ".hg/store/00manifest.i"],
  },
  {
    code: "dependencies",
    severity: "severe",
    what: "dependencies",
    reason: "They name each package and version, and contain pages and programs that you did not write.",
    folders: /^(?:node_modules|bower_components|site-packages|__pycache__|\.venv|venv)$/,
    tried: ["node_modules/.package-lock.json", "node_modules/"],
  },
  {
    code: "editor-leftover",
    severity: "advice",
    what: "an editor's traces",
    reason: "It names the files beside it, and is only for the people who edit the site.",
    names: /^(?:thumbs\.db|desktop\.ini|[\w.-]+\.code-workspace|ehthumbs\.db)$/,
    folders: /^(?:\.vscode|\.idea)$/,
    tried: [".vscode/settings.json", ".idea/workspace.xml", ".DS_Store", "Thumbs.db"],
  },
  {
    code: "database",
    severity: "severe",
    what: "databases",
    reason: "Anyone can download it, with everything in it.",
    names: /\.(?:sqlite3?|s3db|db3?|mdb|accdb|dbf|rdb)$/,
    unless: "offered",
    tried: ["database.sqlite", "data.db"],
  },
  {
    code: "database-dump",
    severity: "severe",
    what: "database dumps",
    reason: "Anyone can download it, with everything that was in the database.",
    names: /^(?:.*(?:dump|backup).*\.sql|.*\.(?:sql|dump))(?:\.(?:gz|bz2|xz|zst|zip))?$/,
    unless: "offered",
    tried: ["dump.sql", "backup.sql"],
  },
  {
    code: "site-archive",
    severity: "warning",
    what: "archives of the site",
    reason: "It contains a copy of the whole site, also files that were removed since.",
    names:
      /^(?:backup|site|website|www|public|public_html|htdocs|html|web|dist|build|release|old|copy|archive|dump)(?:[-_.]?\d[\d._-]*)?\.(?:zip|tar|tgz|7z|rar|tar\.(?:gz|bz2|xz|zst))$|^backup\b.*\.(?:zip|gz|tgz|tar|7z)$/,
    unless: "offered",
    tried: ["backup.zip", "backup.tar.gz", "site.zip"],
  },
  {
    code: "backup-copy",
    severity: "warning",
    what: "backups",
    reason: "A copy of a page or program shows what changed, and a program is sent as text.",
    names: /(?:\.(?:bak|old|orig|save|swp|swo|rej)|~)$|^#.*#$|^(?:copy of .*|.* - copy(?: \(\d+\))?\.\w+)$/,
    tried: ["index.html.bak", "index.html~", ".index.html.swp"],
  },
  {
    code: "server-source",
    severity: "severe",
    what: "server-side source",
    reason: "It is sent as text here, and not run: visitors can read the program and its secrets.",
    names: /\.(?:php\d?|phtml|phps|asp|aspx|ashx|jsp|jspx|cgi|pl|erb|ejs|pug|twig|cshtml)$/,
    tried: ["index.php", "config.php"],
  },
  {
    code: "project-file",
    severity: "warning",
    what: "the project itself",
    reason: "It shows what the program is made of, in which versions, and how it runs.",
    names:
      /^(?:package(?:-lock)?\.json|npm-shrinkwrap\.json|yarn\.lock|pnpm-(?:lock|workspace)\.ya?ml|tsconfig(?:\.[\w.-]+)?\.json|composer\.(?:json|lock)|gemfile(?:\.lock)?|requirements[\w.-]*\.txt|pyproject\.toml|pipfile(?:\.lock)?|cargo\.(?:toml|lock)|go\.(?:mod|sum)|pom\.xml|build\.gradle(?:\.kts)?|dockerfile|containerfile|(?:docker-)?compose(?:\.[\w-]+)?\.ya?ml|makefile|procfile|[\w.-]+\.config\.(?:[cm]?[jt]s|json|ya?ml)|expectations\.ya?ml|[\w.-]+\.expectations\.ya?ml)$/,
    tried: [
      "package.json",
      "package-lock.json",
      "tsconfig.json",
      "Dockerfile",
      "docker-compose.yml",
      "epistyle.config.yaml",
      "expectations.yaml",
    ],
  },
  {
    code: "source",
    severity: "warning",
    what: "program source",
    reason: "Visitors do not need the source of the program, but attackers can use it.",
    names:
      /\.(?:py|rb|go|rs|java|kt|cs|c|cc|cpp|swift|tsx?|jsx|vue|svelte|scss|sass|less|sh|bash|ps1|bat|cmd)$/,
    unless: "offered",
    tried: ["src/main.ts", "server.js", "server.mjs"],
  },
  {
    code: "configuration",
    severity: "warning",
    what: "configuration",
    reason: "It shows how the server is set up, and often its passwords.",
    names: /\.(?:ini|conf|cfg|properties|service)$|^(?:config|settings|application)\.(?:ya?ml|toml)$/,
    tried: ["config.yaml", "settings.ini"],
  },
  {
    code: "log-file",
    severity: "warning",
    what: "logs",
    reason: "It shows who visited, what failed and where the program is.",
    names: /\.log(?:\.\d+)?(?:\.gz)?$|^nohup\.out$/,
    tried: ["error.log", "access.log", "npm-debug.log"],
  },
];

/** The exposure that a file's name alone stands for; undefined for most names. Those that need a look at the content come last. */
export function findExposure(path: string): Exposure | undefined {
  const name = path.slice(path.lastIndexOf("/") + 1).toLowerCase();
  const all = EXPOSURES.filter(({ names }) => names?.test(name));
  return all.find(({ byContent }) => byContent === undefined) ?? all[0];
}

/** The exposure that a folder's name stands for. */
export function findFolderExposure(path: string): Exposure | undefined {
  const name = path.slice(path.lastIndexOf("/") + 1).toLowerCase();
  return EXPOSURES.find(({ folders }) => folders?.test(name));
}
