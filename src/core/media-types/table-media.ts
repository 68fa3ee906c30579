/** Pictures, fonts, sound, film, geodata and models, in the text format: a type and its extensions a line. */
export const MEDIA_TABLE = [
  // Pictures
  `image/svg+xml svg svgz
image/png png
image/apng apng
image/jpeg jpg jpeg jpe jfif
image/gif gif
image/webp webp
image/avif avif
image/heic heic
image/heif heif
image/heic-sequence heics
image/jxl jxl
image/jp2 jp2 jpg2
image/jpx jpx jpf
image/bmp bmp dib
image/tiff tif tiff
image/vnd.microsoft.icon ico cur
image/vnd.adobe.photoshop psd
image/x-xcf xcf
image/x-portable-pixmap ppm
image/x-portable-graymap pgm
image/x-portable-bitmap pbm
image/x-portable-anymap pnm
image/x-tga tga
image/vnd.radiance hdr rgbe
image/aces exr
image/ktx ktx
image/ktx2 ktx2
image/vnd.ms-dds dds
image/wmf wmf
image/emf emf
image/dpx dpx
image/x-adobe-dng dng
image/qoi qoi
`,
  // Fonts
  `font/woff2 woff2
font/woff woff
font/ttf ttf
font/otf otf
font/collection ttc otc
application/vnd.ms-fontobject eot
application/x-font pfa pfb
`,
  // Sound
  `audio/wav wav
audio/mpeg mp3 mpga mp2 mpa
audio/mp4 m4a m4b
audio/ogg oga ogg opus spx
audio/flac flac
audio/aac aac adts
audio/webm weba
audio/midi mid midi kar
audio/aiff aif aiff aifc
audio/basic au snd
audio/amr amr
audio/amr-wb awb
audio/ac3 ac3
audio/eac3 ec3
audio/matroska mka
audio/x-ms-wma wma
audio/x-caf caf
audio/mobile-xmf mxmf
audio/mpegurl m3u
audio/x-scpls pls
`,
  // Film, its playlists and subtitles
  `video/mp4 mp4 m4v mpg4
video/webm webm
video/ogg ogv
video/quicktime mov qt
video/mpeg mpeg mpg mpe m1v m2v
video/mp2t ts m2ts
video/matroska mkv
video/matroska-3d mk3d
video/x-msvideo avi
video/x-ms-wmv wmv
video/x-flv flv
video/3gpp 3gp 3gpp
video/3gpp2 3g2 3gpp2
video/mj2 mj2 mjp2
video/iso.segment m4s
application/vnd.apple.mpegurl m3u8
application/dash+xml mpd
text/vtt vtt
application/x-subrip srt
application/ttml+xml ttml
text/x-ssa ssa
application/smil+xml smil smi
application/ogg ogx
application/mp4 mp4s
`,
  // Geodata
  `application/vnd.google-earth.kml+xml kml
application/vnd.google-earth.kmz kmz
application/gpx+xml gpx
application/gml+xml gml
application/geopackage+sqlite3 gpkg
application/vnd.mapbox-vector-tile mvt
application/vnd.pmtiles pmtiles
application/topo+json topojson
application/vnd.shp shp
application/vnd.shx shx
application/vnd.dbf dbf
application/x-mbtiles mbtiles
application/vnd.las las
application/vnd.laszip laz
`,
  // 3D
  `model/gltf-binary glb
model/gltf+json gltf
model/obj obj
model/mtl mtl
model/stl stl
model/3mf 3mf
model/vnd.usdz+zip usdz
model/vnd.usda usda
model/vnd.collada+xml dae
model/x3d+xml x3d
model/x3d-vrml x3dv
model/vrml wrl vrml
model/step stp step
model/iges igs iges
model/u3d u3d
model/prc prc
model/e57 e57
model/ply ply
image/vnd.dxf dxf
image/vnd.dwg dwg
`,
].join("");
