import { MEDIA_TABLE } from "./table-media.js";
import { parseTypesText } from "./text-format.js";

/**
 * Media types by extension. A type is the one registered with IANA; JavaScript, WebAssembly, manifests, sound and video are
 * as the WHATWG and W3C standards and RFC 9239 (text/javascript), RFC 9559 (Matroska), RFC 9512 (YAML) name them. What
 * nobody registered has the name that is in use. One line a type: its extensions, the usual one first.
 */
const TABLE = [
  // Documents
  `text/html html htm
application/xhtml+xml xhtml xht
text/plain txt text log conf ini cfg properties
text/markdown md markdown mkd
text/prs.fallenstein.rst rst
text/asciidoc adoc asciidoc
application/pdf pdf
application/rtf rtf
application/postscript ps eps ai
application/oxps oxps
image/vnd.djvu djvu djv
text/x-tex tex
application/x-dvi dvi
text/troff roff
text/sgml sgml sgm
`,
  // Styles, scripts, modules and their maps
  `text/css css
text/javascript js mjs cjs
application/json json map
application/wasm wasm
text/x-typescript d.ts tsx
text/jsx jsx
application/ld+json jsonld
application/geo+json geojson
application/geo+json-seq geojsonl geojsons
application/manifest+json webmanifest
application/importmap+json importmap
application/schema+json schema.json
application/problem+json problem.json
application/activity+json activity.json
application/jrd+json jrd
application/json5 json5
application/jsonl jsonl ndjson
application/graphql graphql gql
`,
  // Data
  `text/csv csv
text/tab-separated-values tsv
application/xml xml xsd rng
application/xslt+xml xsl xslt
application/xml-dtd dtd mod
application/mathml+xml mathml mml
application/yaml yaml yml
application/toml toml
application/sql sql
application/vnd.sqlite3 sqlite sqlite3 db
application/cbor cbor
application/msgpack msgpack
application/protobuf pb
application/x-hdf5 h5 hdf5
application/x-netcdf nc
image/fits fits fit fts
application/n-triples nt
application/n-quads nq
application/trig trig
application/rdf+xml rdf
text/turtle ttl
text/n3 n3
application/sparql-query rq
application/sparql-results+xml srx
application/owl+xml owx
text/calendar ics ifb
application/calendar+xml xcs
text/vcard vcf vcard
text/uri-list uris uri
text/x-diff diff patch
text/x-bibtex bib
application/x-research-info-systems ris
`,
  // Feeds and the web's own
  `application/atom+xml atom
application/rss+xml rss
application/xspf+xml xspf
text/x-opml opml
application/opensearchdescription+xml osdx
application/xrd+xml xrd
text/cache-manifest appcache
application/har+json har
message/rfc822 eml mht mhtml
multipart/related mhtm
application/mbox mbox
application/warc warc
application/webbundle wbn
application/signed-exchange sxg
application/metalink4+xml meta4
application/x-bittorrent torrent
application/rsd+xml rsd
`,
  // Office
  `application/msword doc
application/vnd.ms-excel xls xlt
application/vnd.ms-powerpoint ppt pps
application/vnd.ms-project mpp mpt
application/vnd.visio vsd vst vss
application/vnd.openxmlformats-officedocument.wordprocessingml.document docx
application/vnd.openxmlformats-officedocument.wordprocessingml.template dotx
application/vnd.openxmlformats-officedocument.spreadsheetml.sheet xlsx
application/vnd.openxmlformats-officedocument.spreadsheetml.template xltx
application/vnd.openxmlformats-officedocument.presentationml.presentation pptx
application/vnd.openxmlformats-officedocument.presentationml.slideshow ppsx
application/vnd.openxmlformats-officedocument.presentationml.template potx
application/vnd.ms-word.document.macroenabled.12 docm
application/vnd.ms-excel.sheet.macroenabled.12 xlsm
application/vnd.ms-excel.sheet.binary.macroenabled.12 xlsb
application/vnd.ms-powerpoint.presentation.macroenabled.12 pptm
application/vnd.oasis.opendocument.text odt
application/vnd.oasis.opendocument.text-template ott
application/vnd.oasis.opendocument.spreadsheet ods
application/vnd.oasis.opendocument.spreadsheet-template ots
application/vnd.oasis.opendocument.presentation odp
application/vnd.oasis.opendocument.presentation-template otp
application/vnd.oasis.opendocument.graphics odg
application/vnd.oasis.opendocument.formula odf
application/vnd.oasis.opendocument.chart odc
application/vnd.oasis.opendocument.base odb
application/vnd.apple.pages pages
application/vnd.apple.numbers numbers
application/vnd.lotus-1-2-3 123 wk1 wk3 wk4
application/vnd.wordperfect wpd
application/vnd.ms-works wps wks
`,
  // E-books and comics
  `application/epub+zip epub
application/x-mobipocket-ebook mobi
application/vnd.amazon.mobi8-ebook azw3
application/vnd.comicbook+zip cbz
application/vnd.comicbook-rar cbr
`,
  // Archives and packages
  `application/zip zip
application/gzip gz tgz tar.gz
application/zstd zst
application/x-brotli br
application/x-tar tar
application/x-zsync zsync
application/vnd.apache.parquet parquet
application/vnd.apache.arrow.file arrow feather
application/vnd.apache.arrow.stream arrows
application/x-7z-compressed 7z
application/x-bzip2 bz2 tbz2 tar.bz2
application/x-xz xz txz tar.xz
application/x-lzip lz
application/x-lzma lzma
application/x-compress z
application/vnd.rar rar
application/x-cpio cpio
application/x-iso9660-image iso
application/x-apple-diskimage dmg
application/vnd.ms-cab-compressed cab
application/java-archive jar war ear
application/vnd.android.package-archive apk
application/vnd.apple.installer+xml mpkg
application/vnd.debian.binary-package deb ddeb udeb
application/x-redhat-package-manager rpm
application/x-msi msi
application/vnd.microsoft.portable-executable exe dll
application/x-xpinstall xpi
application/vnd.flatpak flatpak
application/vnd.snap snap
application/vnd.appimage appimage
application/vnd.python.wheel whl
application/vnd.ruby.gem gem
application/octet-stream bin img
`,
  // Certificates, keys and signatures (what is served of them: public ones)
  `application/pkix-cert cer
application/x-x509-ca-cert crt
application/pem-certificate-chain pem
application/pkix-crl crl
application/pkcs10 p10 csr
application/pkcs7-mime p7m p7c
application/pkcs7-signature p7s
application/pkcs12 p12 pfx
application/pgp-signature sig
application/timestamp-query tsq
application/timestamp-reply tsr
application/sigstore+json sigstore
`,
  // Source code, shown as text
  `text/x-csrc c
text/x-chdr h
text/x-c++src cpp cc cxx
text/x-c++hdr hpp hh
text/x-java java
text/x-python py
text/x-go go
text/x-sh sh
text/x-perl pl pm
text/x-lua lua
text/x-vue vue
text/x-svelte svelte
`,
].join("");

/** Extension, lower case, without its dot, to media type. */
export const MEDIA_TYPES: ReadonlyMap<string, string> = parseTypesText(TABLE + MEDIA_TABLE).types;

/** What a file is when nothing says more (RFC 9110 §8.3). */
export const UNKNOWN_TYPE = "application/octet-stream";
