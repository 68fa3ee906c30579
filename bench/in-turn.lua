-- For wrk: asks for many files of a folder, evenly. Arguments: the beginning of their paths, and how many there are.
local beginning, count

function init(args)
  beginning, count = args[1], tonumber(args[2])
  math.randomseed(20261126)
end

function request()
  return wrk.format("GET", beginning .. math.random(0, count - 1) .. ".html")
end
