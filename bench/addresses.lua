-- For wrk: asks for the addresses given as arguments, evenly, as clients with br, with gzip and with neither.
local addresses = {}
local codings = { "br, gzip", "gzip", "identity" }

function init(args)
  for i = 1, #args do addresses[i] = args[i] end
  math.randomseed(20261126)
end

function request()
  local headers = { ["Accept-Encoding"] = codings[math.random(#codings)] }
  return wrk.format("GET", addresses[math.random(#addresses)], headers)
end
