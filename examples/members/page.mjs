const page = (main) => `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<title>Members of Larkholm</title>
<meta name="viewport" content="width=device-width, initial-scale=1">
<link rel="icon" href="data:,">
<link rel="stylesheet" href="/shared/larkholm.css">
</head>
<body>
<header><a class="name" href="/">Members of Larkholm</a></header>
<main>
${main}
</main>
</body>
</html>
`;

/** The page for a member, or for somebody who is not signed in. */
export function renderPage(name, problem = "") {
  if (name === undefined)
    return page(`<h1>Sign in</h1>
<p>Try <code>tern</code> with <code>north hide</code>, or <code>dunlin</code> with <code>sea mist</code>.</p>
<p role="alert">${problem}</p>
<form method="post" action="/sign-in">
<label>Name<input name="name" autocomplete="username" required></label>
<label>Password<input name="password" type="password" autocomplete="current-password" required></label>
<button>Sign in</button>
</form>`);
  return page(`<h1>Downloads</h1>
<form method="post" action="/sign-out"><p>Signed in as ${name}. <button>Sign out</button></p></form>
<ul>
<li><a href="/downloads/report">Season report</a>, for all members</li>
<li><a href="/downloads/my-rings">My rings</a>, for ${name} alone</li>
<li><a href="/downloads/dawn-chorus">Dawn chorus</a>, to listen to:</li>
</ul>
<audio controls preload="none" src="/downloads/dawn-chorus"></audio>`);
}
