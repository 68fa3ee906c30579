/**
 * What should not be reachable, in one table: the packs ask for it, a draft does not expect it, startup warns of it, and the
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
    names:
      /(?:^id_(?:rsa|dsa|ecdsa|ed25519)(?:[._-](?:old|bak|backup|\d+))?|^secring\.(?:gpg|pgp|skr)|^master\.key|\.(?:ppk|p12|pfx|jks|keystore|ovpn))$/,
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
      /^(?:(?:secrets?|credentials?|passwords?|passwd)\.(?:json|ya?ml|txt|csv|toml|ini|xml|properties)|[\w-]+[-_.]credentials\.(?:json|ya?ml|toml|ini)|(?:[\w-]+[-_.])?service[-_]?account(?:[-_]?key)?\.(?:json|ya?ml)|(?:[\w-]*\.)?htpasswd|passwd|netrc|_netrc|npmrc|pypirc|pgpass(?:\.conf)?|git-credentials|kubeconfig(?:\.\w+)?|[\w.-]+\.kubeconfig|[\w.-]*\.tfstate(?:\.backup)?|[\w.-]+\.tfvars(?:\.json)?|cookies?\.sqlite|[\w.-]+\.(?:kdbx?|har|agilekeychain|opvault))$/,
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
    names:
      /(?:^|[._-])env$|(?:^|\.)env[._-](?:local|json|bak|backup|old|txt|save|orig|\d+|(?:prod|dev|test|stag|live)\w*(?:\.local)?)$/,
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
    names:
      /^(?:thumbs\.db|desktop\.ini|[\w.-]+\.code-workspace|ehthumbs\.db|icon\r|\.directory|.*\.(?:crdownload|part|partial|filepart|lnk|webloc))$/,
    folders:
      /^(?:\.vscode|\.idea|__macosx|\$recycle\.bin|system volume information|lost\+found|\.trash(?:es|-\d+)?)$/,
    tried: [".vscode/settings.json", ".idea/workspace.xml", ".DS_Store", "Thumbs.db"],
  },
  {
    code: "database",
    severity: "severe",
    what: "databases",
    reason: "Anyone can download it, with everything in it.",
    names:
      /\.(?:sqlite3?|s3db|db3?|mdb|accdb|dbf|rdb|myd|ibd|frm|mv\.db|duckdb)$|\.(?:sqlite3?|s3db|db3?)[-.](?:wal|shm|journal)$|^ibdata\d$/,
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
    code: "mailbox",
    severity: "severe",
    what: "mail",
    reason: "Anyone can read what people wrote to each other.",
    names: /\.(?:mbox|eml|msg|pst|ost)$/,
    folders: /^maildir$/,
    tried: [],
  },
  {
    code: "test-report",
    severity: "warning",
    what: "test reports",
    reason: "It shows the source of the program, and which parts of it are not tested.",
    names:
      /^(?:lcov\.info|coverage(?:-final|-summary)?\.(?:json|xml)|clover\.xml|cobertura[\w.-]*\.xml|jacoco\.xml|junit[\w.-]*\.xml)$/,
    folders: /^(?:lcov-report|htmlcov|\.nyc_output)$/,
    tried: [],
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
    names:
      /(?:\.(?:bak|backup|bkp|old|orig|original|save|sav|swp|swo|rej|tmp|temp|prev|previous|disabled|deleted|dpkg-(?:old|dist|new)|rpm(?:save|new|orig))|[._-](?:bak|old|orig)\d*|~)$|^#.*#$|^~\$|^(?:copy(?: \(\d+\))? of .*|.* - (?:copy|kopie|copie|copia)(?: \(\d+\))?\.\w+|.* (?:copy(?: \d+)?|\((?:copy|kopie|copie)(?: \d+)?\))\.\w+)$|\.(?:html?|css|m?js|xml|json|txt|svg|php)[._-](?:\d{1,3}|\d{8}|\d{4}-\d\d-\d\d[t_.-]?[\d:-]*)$/,
    tried: ["index.html.bak", "index.html~", ".index.html.swp"],
  },
  {
    code: "server-source",
    severity: "severe",
    what: "server-side source",
    reason: "It is sent as text here, and not run: visitors can read the program and its secrets.",
    names:
      /\.(?:php\d?|phtml|phps|asp|aspx|ashx|ascx|asmx|jsp|jspx|jspf|cgi|pl|erb|ejs|pug|twig|cshtml|cfm|shtml|inc)$/,
    tried: ["index.php", "config.php"],
  },
  {
    code: "project-file",
    severity: "warning",
    what: "the project itself",
    reason: "It shows what the program is made of, in which versions, and how it runs.",
    names:
      /^(?:package(?:-lock)?\.json|npm-shrinkwrap\.json|yarn\.lock|pnpm-(?:lock|workspace)\.ya?ml|tsconfig(?:\.[\w.-]+)?\.json|composer\.(?:json|lock)|gemfile(?:\.lock)?|requirements[\w.-]*\.txt|pyproject\.toml|pipfile(?:\.lock)?|cargo\.(?:toml|lock)|go\.(?:mod|sum)|pom\.xml|build\.gradle(?:\.kts)?|dockerfile(?:\.[\w-]+)?|containerfile|jenkinsfile|vagrantfile|azure-pipelines\.ya?ml|bitbucket-pipelines\.ya?ml|appveyor\.ya?ml|cloudbuild\.ya?ml|buildspec\.ya?ml|[\w.-]*gitlab-ci\.ya?ml|[\w.-]*travis\.ya?ml|(?:docker-)?compose(?:\.[\w-]+)?\.ya?ml|makefile|procfile|[\w.-]+\.config\.(?:[cm]?[jt]s|json|ya?ml)|expectations\.ya?ml|[\w.-]+\.expectations\.ya?ml)$/,
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
    names:
      /\.log(?:[._-][\d-]+)?(?:\.(?:gz|bz2|xz|zst))?$|^(?:nohup|catalina)\.out$|^(?:error|access|debug|php_error)_?logs?(?:\.txt)?$|^[\w-]*(?:error|access|debug)[-_]?log[\w.-]*\.txt$/,
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
