--- The tide display on the quay: a few lines of text, drawn again every minute.

local levels = require("display.levels")

local Board = {}
Board.__index = Board

--- A board of so many columns.
function Board.new(columns)
  return setmetatable({ columns = columns, lines = {} }, Board)
end

local function pad(text, columns)
  return text .. string.rep(" ", columns - #text)
end

function Board:clear()
  self.lines = {}
end

function Board:add(text)
  self.lines[#self.lines + 1] = pad(text:sub(1, self.columns), self.columns)
end

--- The next tides, with a mark at those over the quay's wall.
function Board:show_tides(tides, wall)
  self:clear()
  self:add("TIDES")
  local shown = 0
  for _, tide in ipairs(tides) do
    if shown < 4 and not tide.past then
      local mark = tide.level > wall and " !" or ""
      self:add(tide.time .. " " .. levels.text(tide.level) .. mark)
      shown = shown + 1
    end
  end
  if shown == 0 then
    self:add("none today")
  end
  return shown
end

--- The next gusts, with a mark at those over the cranes' limit.
function Board:show_gusts(gusts, limit)
  self:clear()
  self:add("GUSTS")
  local shown = 0
  for _, gust in ipairs(gusts) do
    if shown < 4 and not gust.past then
      local mark = gust.level > limit and " !" or ""
      self:add(gust.time .. " " .. levels.text(gust.level) .. mark)
      shown = shown + 1
    end
  end
  if shown == 0 then
    self:add("calm today")
  end
  return shown
end

--- All of it as one text.
function Board:text()
  return table.concat(self.lines, "\n")
end

return Board
