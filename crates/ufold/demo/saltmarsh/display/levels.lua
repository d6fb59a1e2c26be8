--- Levels above the harbour's datum, in decimetres.

local levels = {}

--- `42` is shown as `4.2 m`.
function levels.text(level)
  return string.format("%d.%d m", level // 10, level % 10)
end

--- The highest level, and the time of it.
function levels.highest(tides)
  local most, time
  for _, tide in ipairs(tides) do
    if not most or tide.level > most then
      most, time = tide.level, tide.time
    end
  end
  return most, time
end

--- The lowest level, and the time of it.
function levels.lowest(tides)
  local least, time
  for _, tide in ipairs(tides) do
    if not least or tide.level < least then
      least, time = tide.level, tide.time
    end
  end
  return least, time
end

return levels
