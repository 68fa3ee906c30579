/** The style sheet of the HTML report: the beam carries the sums, and the cases hang from it in columns. */
export const REPORT_STYLE = `
:root{color-scheme:light dark;--paper:#fbfaf6;--ink:#1c2326;--quiet:#566168;--sea:#0b5563;--gorse:#8a6400;--line:#dcd7ca;--row:#f3efe4;--mark:#f6dfa4}
@media(prefers-color-scheme:dark){:root{--paper:#12181a;--ink:#e6e9e7;--quiet:#9aa7ab;--sea:#7cc4d0;--gorse:#e3b341;--line:#2b3538;--row:#1a2225;--mark:#4d3c0c}}
*{box-sizing:border-box}
body{margin:0;background:var(--paper);color:var(--ink);font:1rem/1.5 system-ui,sans-serif}
main{max-width:76rem;margin:0 auto;padding:2.5rem 1.5rem 4rem}
header{border-bottom:6px solid;border-image:linear-gradient(to right,var(--sea) var(--passed),var(--gorse) 0 var(--known),var(--line) 0) 1;padding-bottom:.9rem}
h1{margin:0;font-size:1.9rem;line-height:1.2;font-weight:650}
header p{margin:.35rem 0 0;color:var(--quiet);overflow-wrap:anywhere}
.sums{display:flex;flex-wrap:wrap;gap:.25rem 3rem;margin:1.1rem 0 0;padding:0}
.sums div{display:flex;flex-direction:column-reverse}
.sums dt{color:var(--quiet);font-size:.9rem}
.sums dd{margin:0;font-size:1.7rem;line-height:1.15;font-weight:650;font-variant-numeric:tabular-nums}
.bad{color:var(--gorse)}
h2{margin:2.6rem 0 .2rem;font-size:1.25rem;font-weight:650;overflow-wrap:anywhere}
h2 small,.group small{font-weight:400;font-size:.9rem;color:var(--quiet)}
h3{margin:1.7rem 0 .3rem;font-size:1rem;font-weight:600}
details{border-bottom:1px solid var(--line)}
summary{display:grid;grid-template-columns:5.2rem minmax(12rem,5fr) minmax(10rem,4fr) 3rem 7.5rem;gap:0 1rem;padding:.38rem .5rem;cursor:pointer;align-items:baseline;font-variant-numeric:tabular-nums;list-style:none}
summary::-webkit-details-marker{display:none}
summary:hover{background:var(--row)}
summary:focus-visible{outline:3px solid var(--gorse);outline-offset:-1px}
summary>*{overflow-wrap:anywhere}
.word::before{display:inline-block;width:1.1em;content:"\\2713";color:var(--sea)}
.failed .word,.unanswered .word{color:var(--gorse);font-weight:650}
.failed .word::before,.unanswered .word::before{content:"\\00d7";color:var(--gorse)}
.note.because{margin:.2rem 0 1rem 6.7rem}
.known .word{color:var(--gorse)}
.known .word::before{content:"\\25cb";color:var(--gorse)}
.advised .word{color:var(--quiet)}
.advised .word::before{content:"\\2192";color:var(--quiet)}
.advice{padding-left:1.2rem;max-width:75ch}
.advice li{margin:.5rem 0}
.skipped .word{color:var(--quiet)}
.skipped .word::before{content:"\\2013";color:var(--quiet)}
.note.same{max-width:none;overflow-wrap:anywhere}
.same a{margin-right:.6rem}
nav ul{display:flex;flex-wrap:wrap;gap:.2rem 1.6rem;margin:1rem 0 0;padding:0;list-style:none}
nav a,.same a{color:var(--sea)}
.filter{display:flex;flex-wrap:wrap;gap:.2rem 1.2rem;margin:2.2rem 0 0;padding:0;border:0;color:var(--quiet)}
.filter legend{float:left;margin-right:1.2rem;padding:0}
main:has(#show-failed:checked) :is(details,.lines>li):is(.passed,.skipped,.advised,.known){display:none}
main:has(#show-advice:checked) :is(details,.lines>li):is(.passed,.skipped,.failed,.unanswered,.known){display:none}
main:has(#show-skipped:checked) :is(details,.lines>li):is(.passed,.advised,.failed,.unanswered,.known){display:none}
main:has(#show-passed:checked) :is(details,.lines>li):is(.skipped,.advised,.failed,.unanswered,.known){display:none}
.lines{margin:0;padding:0;list-style:none}
.lines li{display:grid;grid-template-columns:5.2rem minmax(12rem,5fr) minmax(10rem,4fr);gap:0 1rem;padding:.25rem .5rem;border-bottom:1px solid var(--line);align-items:baseline}
.lines li>*{overflow-wrap:anywhere}
.lines b{font-weight:400}
.why{display:block;color:var(--quiet)}
:target{background:var(--mark)}
.req,.ms,code,.mono td,.mono th,pre{font-family:ui-monospace,"DejaVu Sans Mono",Consolas,monospace;font-size:.85rem}
.req{color:var(--quiet)}
.ms{position:relative;text-align:right;white-space:nowrap}
.ms i{position:absolute;right:0;bottom:-.1rem;height:3px;background:var(--sea);opacity:.55}
.inside{padding:.2rem .5rem 1.3rem 6.7rem}
.what{margin:.9rem 0 .25rem;font-size:.95rem;font-weight:600}
.note{margin:.4rem 0 0;color:var(--quiet);max-width:65ch}
table{width:100%;border-collapse:collapse;font-variant-numeric:tabular-nums}
th,td{padding:.28rem 1rem .28rem 0;text-align:left;vertical-align:baseline;border-bottom:1px solid var(--line);overflow-wrap:anywhere}
thead th{color:var(--quiet);font-weight:600;font-family:system-ui,sans-serif;font-size:.85rem}
tbody th{font-weight:400;width:22%;color:var(--quiet)}
.mono td{width:39%}
.mono thead td{width:22%}
tr.differs th{color:var(--gorse);font-weight:650}
tr.differs th::after{content:" differs";font-weight:400;font-family:system-ui,sans-serif}
.answer td{color:var(--quiet)}
details.group{border:0}
details.group>summary{display:block;padding:0;margin-top:1.4rem}
details.group>summary::before{content:"\\25b8";display:inline-block;width:1.1em;color:var(--sea)}
details.group[open]>summary::before{content:"\\25be"}
details.group h3{display:inline;margin:0}
details.whole{border:0;margin-top:.9rem}
details.whole>summary{display:list-item;list-style:disclosure-closed inside;padding:.1rem 0;color:var(--sea)}
details.whole[open]>summary{list-style-type:disclosure-open}
mark{background:var(--mark);color:inherit;box-shadow:0 2px 0 var(--gorse);padding:0 .1em}
dl.how{display:grid;grid-template-columns:5rem 1fr;gap:.1rem 1rem;margin:0}
dl.how span+span{margin-left:1.1rem}
dl.how dt{color:var(--sea)}
dl.how dd{margin:0;overflow-wrap:anywhere}
footer{margin-top:3rem;color:var(--quiet);font-size:.9rem}
@media(max-width:52rem){
main{padding:1.5rem 1rem 3rem}
summary{grid-template-columns:5.2rem 1fr 5rem}
summary .req{grid-column:2;grid-row:2}
summary .st{display:none}
.inside{padding-left:.5rem}
.lines li{grid-template-columns:5.2rem 1fr}
.lines .req{grid-column:2}
}
`;
