-- Run in the folder above: lua display/test_display.lua

local Board = require("display.board")
local levels = require("display.levels")

local TIDES = {
  { time = "05:10", level = 12, past = true },
  { time = "11:25", level = 48 },
  { time = "17:40", level = 9 },
}

local function check(name, got, expected)
  assert(got == expected, name .. ": " .. tostring(got))
  print(name .. " ok")
end

check("level", levels.text(42), "4.2 m")
local most, time = levels.highest(TIDES)
check("highest", most .. " at " .. time, "48 at 11:25")
check("lowest", (levels.lowest(TIDES)), 9)

local board = Board.new(14)
check("tides", board:show_tides(TIDES, 45), 2)
check("marked", board:text(), "TIDES         \n11:25 4.8 m ! \n17:40 0.9 m   ")
check("no tides", board:show_tides({}, 45), 0)
check("gusts", board:show_gusts({ { time = "12:00", level = 140 } }, 130), 1)
check("gust", board.lines[2], "12:00 14.0 m !")
check("calm", board:show_gusts({}, 130), 0)
check("no gust", board.lines[2], "calm today    ")
