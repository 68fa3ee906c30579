import { MEDIA_TABLE } from "./table-media.js";

/**
 * Media types by extension. A type is the one registered with IANA; JavaScript, WebAssembly, manifests, sound and video are
 * as the WHATWG and W3C standards and RFC 9239 (text/javascript), RFC 9559 (Matroska), RFC 9512 (YAML) name them. What
 * nobody registered has the name that is in use. One line a type: its extensions, the usual one first.
 * A line that begins with a slash goes on with the top-level type of the line before it, and one without an extension has its subtype as that.
 */
const TABLE = [
  // Documents
  `text/html html htm
application/xhtml+xml xhtml xht
text/plain txt text log conf ini cfg properties
/markdown md markdown mkd
/prs.fallenstein.rst rst
/asciidoc adoc asciidoc
application/pdf
/rtf
/postscript ps eps ai
/oxps
image/vnd.djvu djvu djv
text/x-tex tex
application/x-dvi dvi
text/troff roff
/sgml sgml sgm
`,
  // Styles, scripts, modules and their maps
  `text/css
/javascript js mjs cjs
application/json json map
/wasm
text/x-typescript d.ts tsx
/jsx
application/ld+json jsonld
/geo+json geojson
/geo+json-seq geojsonl geojsons
/manifest+json webmanifest
/importmap+json importmap
/schema+json schema.json
/problem+json problem.json
/activity+json activity.json
/jrd+json jrd
/json5
/jsonl jsonl ndjson
/graphql graphql gql
`,
  // Data
  `text/csv
/tab-separated-values tsv
application/xml xml xsd rng
/xslt+xml xsl xslt
/xml-dtd dtd mod
/mathml+xml mathml mml
/yaml yaml yml
/toml
/sql
/vnd.sqlite3 sqlite sqlite3 db
/cbor
/msgpack
/protobuf pb
/x-hdf5 h5 hdf5
/x-netcdf nc
image/fits fits fit fts
application/n-triples nt
/n-quads nq
/trig
/rdf+xml rdf
text/turtle ttl
/n3
application/sparql-query rq
/sparql-results+xml srx
/owl+xml owx
text/calendar ics ifb
application/calendar+xml xcs
text/vcard vcf vcard
/uri-list uris uri
/x-diff diff patch
/x-bibtex bib
application/x-research-info-systems ris
`,
  // Feeds and the web's own
  `application/atom+xml atom
/rss+xml rss
/xspf+xml xspf
text/x-opml opml
application/opensearchdescription+xml osdx
/xrd+xml xrd
text/cache-manifest appcache
application/har+json har
message/rfc822 eml mht mhtml
multipart/related mhtm
application/mbox
/warc
/webbundle wbn
/signed-exchange sxg
/metalink4+xml meta4
/x-bittorrent torrent
/rsd+xml rsd
`,
  // Office
  `application/msword doc
/vnd.ms-excel xls xlt
/vnd.ms-powerpoint ppt pps
/vnd.ms-project mpp mpt
/vnd.visio vsd vst vss
/vnd.openxmlformats-officedocument.wordprocessingml.document docx
/vnd.openxmlformats-officedocument.wordprocessingml.template dotx
/vnd.openxmlformats-officedocument.spreadsheetml.sheet xlsx
/vnd.openxmlformats-officedocument.spreadsheetml.template xltx
/vnd.openxmlformats-officedocument.presentationml.presentation pptx
/vnd.openxmlformats-officedocument.presentationml.slideshow ppsx
/vnd.openxmlformats-officedocument.presentationml.template potx
/vnd.ms-word.document.macroenabled.12 docm
/vnd.ms-excel.sheet.macroenabled.12 xlsm
/vnd.ms-excel.sheet.binary.macroenabled.12 xlsb
/vnd.ms-powerpoint.presentation.macroenabled.12 pptm
/vnd.oasis.opendocument.text odt
/vnd.oasis.opendocument.text-template ott
/vnd.oasis.opendocument.spreadsheet ods
/vnd.oasis.opendocument.spreadsheet-template ots
/vnd.oasis.opendocument.presentation odp
/vnd.oasis.opendocument.presentation-template otp
/vnd.oasis.opendocument.graphics odg
/vnd.oasis.opendocument.formula odf
/vnd.oasis.opendocument.chart odc
/vnd.oasis.opendocument.base odb
/vnd.apple.pages pages
/vnd.apple.numbers numbers
/vnd.lotus-1-2-3 123 wk1 wk3 wk4
/vnd.wordperfect wpd
/vnd.ms-works wps wks
`,
  // E-books and comics
  `application/epub+zip epub
/x-mobipocket-ebook mobi
/vnd.amazon.mobi8-ebook azw3
/vnd.comicbook+zip cbz
/vnd.comicbook-rar cbr
`,
  // Archives and packages
  `application/zip
/gzip gz tgz tar.gz
/zstd zst
/x-brotli br
/x-tar tar
/x-zsync zsync
/vnd.apache.parquet parquet
/vnd.apache.arrow.file arrow feather
/vnd.apache.arrow.stream arrows
/x-7z-compressed 7z
/x-bzip2 bz2 tbz2 tar.bz2
/x-xz xz txz tar.xz
/x-lzip lz
/x-lzma lzma
/x-compress z
/vnd.rar rar
/x-cpio cpio
/x-iso9660-image iso
/x-apple-diskimage dmg
/vnd.ms-cab-compressed cab
/java-archive jar war ear
/vnd.android.package-archive apk
/vnd.apple.installer+xml mpkg
/vnd.debian.binary-package deb ddeb udeb
/x-redhat-package-manager rpm
/x-msi msi
/vnd.microsoft.portable-executable exe dll
/x-xpinstall xpi
/vnd.flatpak flatpak
/vnd.snap snap
/vnd.appimage appimage
/vnd.python.wheel whl
/vnd.ruby.gem gem
/octet-stream bin img
`,
  // Certificates, keys and signatures (what is served of them: public ones)
  `application/pkix-cert cer
/x-x509-ca-cert crt
/pem-certificate-chain pem
/pkix-crl crl
/pkcs10 p10 csr
/pkcs7-mime p7m p7c
/pkcs7-signature p7s
/pkcs12 p12 pfx
/pgp-signature sig
/timestamp-query tsq
/timestamp-reply tsr
/sigstore+json sigstore
`,
  // Source code, shown as text
  `text/x-csrc c
/x-chdr h
/x-c++src cpp cc cxx
/x-c++hdr hpp hh
/x-java java
/x-python py
/x-go go
/x-sh sh
/x-perl pl pm
/x-lua lua
/x-vue vue
/x-svelte svelte
`,
].join("");

/** Extension, lower case, without its dot, to media type. */
export const MEDIA_TYPES: ReadonlyMap<string, string> = readTable();

function readTable(): Map<string, string> {
  const types = new Map<string, string>();
  let top = "";
  for (const line of (TABLE + MEDIA_TABLE).trim().split("\n")) {
    const [type, ...extensions] = line.split(" ");
    const [before, subtype] = type!.split("/");
    top = before! || top;
    for (const extension of extensions.length > 0 ? extensions : [subtype!])
      types.set(extension, `${top}/${subtype}`);
  }
  return types;
}

/** What a file is when nothing says more (RFC 9110 §8.3). */
export const UNKNOWN_TYPE = "application/octet-stream";
