/** Pictures, fonts, sound, film, geodata and models, in the text format: a type and its extensions a line. */
export const MEDIA_TABLE = [
  // Pictures
  `image/svg+xml svg svgz
/png
/apng
/jpeg jpg jpeg jpe jfif
/gif
/webp
/avif
/heic
/heif
/heic-sequence heics
/jxl
/jp2 jp2 jpg2
/jpx jpx jpf
/bmp bmp dib
/tiff tif tiff
/vnd.microsoft.icon ico cur
/vnd.adobe.photoshop psd
/x-xcf xcf
/x-portable-pixmap ppm
/x-portable-graymap pgm
/x-portable-bitmap pbm
/x-portable-anymap pnm
/x-tga tga
/vnd.radiance hdr rgbe
/aces exr
/ktx
/ktx2
/vnd.ms-dds dds
/wmf
/emf
/dpx
/x-adobe-dng dng
/qoi
`,
  // Fonts
  `font/woff2
/woff
/ttf
/otf
/collection ttc otc
application/vnd.ms-fontobject eot
/x-font pfa pfb
`,
  // Sound
  `audio/wav
/mpeg mp3 mpga mp2 mpa
/mp4 m4a m4b
/ogg oga ogg opus spx
/flac
/aac aac adts
/webm weba
/midi mid midi kar
/aiff aif aiff aifc
/basic au snd
/amr
/amr-wb awb
/ac3
/eac3 ec3
/matroska mka
/x-ms-wma wma
/x-caf caf
/mobile-xmf mxmf
/mpegurl m3u
/x-scpls pls
`,
  // Film, its playlists and subtitles
  `video/mp4 mp4 m4v mpg4
/webm
/ogg ogv
/quicktime mov qt
/mpeg mpeg mpg mpe m1v m2v
/mp2t ts m2ts
/matroska mkv
/matroska-3d mk3d
/x-msvideo avi
/x-ms-wmv wmv
/x-flv flv
/3gpp 3gp 3gpp
/3gpp2 3g2 3gpp2
/mj2 mj2 mjp2
/iso.segment m4s
application/vnd.apple.mpegurl m3u8
/dash+xml mpd
text/vtt
application/x-subrip srt
/ttml+xml ttml
text/x-ssa ssa
application/smil+xml smil smi
/ogg ogx
/mp4 mp4s
`,
  // Geodata
  `application/vnd.google-earth.kml+xml kml
/vnd.google-earth.kmz kmz
/gpx+xml gpx
/gml+xml gml
/geopackage+sqlite3 gpkg
/vnd.mapbox-vector-tile mvt
/vnd.pmtiles pmtiles
/topo+json topojson
/vnd.shp shp
/vnd.shx shx
/vnd.dbf dbf
/x-mbtiles mbtiles
/vnd.las las
/vnd.laszip laz
`,
  // 3D
  `model/gltf-binary glb
/gltf+json gltf
/obj
/mtl
/stl
/3mf
/vnd.usdz+zip usdz
/vnd.usda usda
/vnd.collada+xml dae
/x3d+xml x3d
/x3d-vrml x3dv
/vrml wrl vrml
/step stp step
/iges igs iges
/u3d
/prc
/e57
/ply
image/vnd.dxf dxf
/vnd.dwg dwg
`,
].join("");
