import { parseTypesText } from "./text-format.js";

/**
 * Media types by extension, as registered with IANA; JavaScript, WebAssembly, fonts and manifests as the WHATWG and W3C
 * standards name them (RFC 9239 for text/javascript). One line a type: its extensions, the usual one first.
 */
const TABLE = `
text/html                          html htm
application/xhtml+xml              xhtml xht
text/css                           css
text/javascript                    js mjs cjs
application/json                   json map
application/ld+json                jsonld
application/geo+json               geojson
application/manifest+json          webmanifest
application/wasm                   wasm
application/xml                    xml xsd xsl xslt
application/atom+xml               atom
application/rss+xml                rss
application/yaml                   yaml yml
application/toml                   toml
application/sql                    sql
text/plain                         txt text log
text/markdown                      md markdown
text/csv                           csv
text/tab-separated-values          tsv
text/calendar                      ics
text/vcard                         vcf
text/vtt                           vtt
image/svg+xml                      svg
image/png                          png
image/apng                         apng
image/jpeg                         jpg jpeg jpe
image/gif                          gif
image/webp                         webp
image/avif                         avif
image/heic                         heic
image/jxl                          jxl
image/bmp                          bmp
image/tiff                         tif tiff
image/vnd.microsoft.icon           ico
font/woff2                         woff2
font/woff                          woff
font/ttf                           ttf
font/otf                           otf
font/collection                    ttc
application/vnd.ms-fontobject      eot
audio/wav                          wav
audio/mpeg                         mp3
audio/mp4                          m4a
audio/ogg                          oga ogg opus
audio/flac                         flac
audio/aac                          aac
audio/midi                         mid midi
video/mp4                          mp4 m4v
video/webm                         webm
video/ogg                          ogv
video/quicktime                    mov
video/mpeg                         mpeg mpg
video/matroska                     mkv
application/vnd.apple.mpegurl      m3u8
application/pdf                    pdf
application/rtf                    rtf
application/epub+zip               epub
application/zip                    zip
application/gzip                   gz
application/zstd                   zst
application/x-tar                  tar
application/x-7z-compressed        7z
application/x-bzip2                bz2
application/x-xz                   xz
application/msword                 doc
application/vnd.ms-excel           xls
application/vnd.ms-powerpoint      ppt
application/vnd.openxmlformats-officedocument.wordprocessingml.document    docx
application/vnd.openxmlformats-officedocument.spreadsheetml.sheet          xlsx
application/vnd.openxmlformats-officedocument.presentationml.presentation  pptx
application/vnd.oasis.opendocument.text          odt
application/vnd.oasis.opendocument.spreadsheet   ods
application/vnd.oasis.opendocument.presentation  odp
application/vnd.google-earth.kml+xml             kml
application/vnd.google-earth.kmz                 kmz
application/gpx+xml                              gpx
application/geopackage+sqlite3                   gpkg
model/gltf-binary                  glb
model/gltf+json                    gltf
model/obj                          obj
model/stl                          stl
application/vnd.sqlite3            sqlite sqlite3 db
`;

/** Extension, lower case, without its dot, to registered media type. */
export const MEDIA_TYPES: ReadonlyMap<string, string> = parseTypesText(TABLE).types;

/** What a file is when nothing says more (RFC 9110 §8.3). */
export const UNKNOWN_TYPE = "application/octet-stream";
