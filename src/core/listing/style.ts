/** The style sheet of listings: the beam carries the table, and its rows hang in columns. */
export const LISTING_STYLE = `
:root{color-scheme:light dark;--paper:#fbfaf6;--ink:#1c2326;--quiet:#566168;--sea:#0b5563;--gorse:#8a6400;--line:#dcd7ca;--row:#f3efe4}
@media(prefers-color-scheme:dark){:root{--paper:#12181a;--ink:#e6e9e7;--quiet:#9aa7ab;--sea:#7cc4d0;--gorse:#e3b341;--line:#2b3538;--row:#1a2225}}
*{box-sizing:border-box}
body{margin:0;background:var(--paper);color:var(--ink);font:1rem/1.5 system-ui,sans-serif}
main,footer{max-width:66rem;margin:0 auto;padding:0 1.5rem}
main{padding-top:2.75rem}
main>nav ol{display:flex;flex-wrap:wrap;gap:.1rem .55rem;margin:0 0 .35rem;padding:0;list-style:none}
main>nav li+li::before{content:"/";margin-right:.55rem;color:var(--quiet)}
a{color:var(--sea);text-underline-offset:.2em;text-decoration-thickness:1px}
a:hover{text-decoration-thickness:2px}
a:focus-visible,input:focus-visible,button:focus-visible{outline:3px solid var(--gorse);outline-offset:2px}
.head{display:flex;flex-wrap:wrap;gap:.6rem 2rem;align-items:end;justify-content:space-between}
h1{margin:0;font-size:1.9rem;line-height:1.2;font-weight:650;overflow-wrap:anywhere}
form{display:flex;gap:.5rem;align-items:end}
label{color:var(--quiet);font-size:.9rem;min-width:0}
input,button{padding:.35rem .6rem;border:1px solid var(--quiet);border-radius:0;background:var(--paper);color:var(--ink);font:inherit}
input{display:block;width:16rem;max-width:100%;font-size:1rem}
.note{margin:.6rem 0 0;max-width:42rem;color:var(--quiet)}
table{width:100%;margin-top:1rem;border-collapse:collapse;border-top:6px solid var(--sea);font-variant-numeric:tabular-nums}
caption{position:absolute;width:1px;height:1px;overflow:hidden;clip-path:inset(50%)}
th,td{padding:.42rem 1rem .42rem 0;text-align:left;vertical-align:baseline;border-bottom:1px solid var(--line)}
thead th{padding-top:.6rem;font-weight:600;white-space:nowrap}
thead a{color:var(--quiet);text-decoration:none}
thead a:hover{text-decoration:underline}
thead [aria-sort=ascending] a,thead [aria-sort=descending] a{color:var(--ink)}
tbody th{position:relative;padding-left:1.85rem;font-weight:400;overflow-wrap:anywhere}
tbody tr:hover{background:var(--row)}
tbody th svg{position:absolute;left:0;top:.6rem;width:1.15rem;height:1.15rem;color:var(--quiet)}
tr.directory th svg{color:var(--sea)}
tr.directory a{font-weight:600}
td{color:var(--quiet);white-space:nowrap}
th:nth-child(3),td:nth-child(3){text-align:right}
th:last-child,td:last-child{padding-right:0;text-align:right}
.lost th{color:var(--gorse)}
.pages{display:flex;flex-wrap:wrap;gap:.5rem 1.5rem;justify-content:space-between;margin:1rem 0 0;color:var(--quiet)}
.pages ol{display:flex;flex-wrap:wrap;gap:.3rem 1rem;margin:0;padding:0;list-style:none}
.pages [aria-current]{color:var(--ink);font-weight:650}
footer{padding-top:1rem;padding-bottom:3rem;color:var(--quiet);font-size:.9rem}
@media(max-width:40rem){
main,footer{padding-left:1rem;padding-right:1rem}
main{padding-top:1.5rem}
th:nth-child(2),td:nth-child(2){display:none}
td:last-child .clock{display:none}
th,td{padding-right:.75rem}
}
`;

/** What the filter does while somebody types: it hides the rows of this page whose name does not have the text, and says how to search the others. */
export const LISTING_SCRIPT = `
const form=document.querySelector("form"),field=form.querySelector("[type=search]"),rows=[...document.querySelectorAll("tbody tr")],count=document.querySelector("[role=status]"),asked=field.value.trim();
const fold=text=>text.normalize("NFKD").replace(/[\\u0300-\\u036f]/g,"").toLowerCase();
field.addEventListener("input",()=>{const text=field.value.trim(),part=fold(text);let shown=0;for(const row of rows){const keep=fold(row.cells[0].textContent).includes(part);row.hidden=!keep;if(keep)shown++}const all=form.dataset.all;count.textContent=text===asked?"":shown+" of "+rows.length+" on this page"+(all?"; press Enter to search all "+all:"")});
`;

/** The icon of the page, as an address that holds it: no browser asks for another. */
export const LISTING_ICON =
  "data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 16 16'%3E%3Cpath fill='%230b7285' d='M0 2h16v4H0zM1 8h4v7H1zM6 8h4v5H6zM11 8h4v3h-4z'/%3E%3C/svg%3E";

/** SHA-256 of the two, in base64, for the page's policy; a test compares them with the texts. */
export const LISTING_STYLE_DIGEST = "f/gJBU40/e1W3fZoIGavK0cBsSBZRchAnksKQCORoIM=";
export const LISTING_SCRIPT_DIGEST = "OyEOdxp36HIF/+fQCwbUj3h4Sm0iEHcYatbg8TWTTPU=";
