//! What is known of Lua's own library: its words, its globals, and what some functions do.

use crate::lang::Collections;

pub const KEYWORDS: &[&str] = &[
    "and", "break", "do", "else", "elseif", "end", "false", "for", "function", "goto", "if", "in", "local", "nil",
    "not", "or", "repeat", "return", "then", "true", "until", "while",
];

/// Globals of the language (Lua 5.1 to 5.4 Reference Manuals, section on the standard libraries) and of LuaJIT.
pub const GLOBALS: &[&str] = &[
    "_G",
    "_VERSION",
    "assert",
    "bit",
    "bit32",
    "collectgarbage",
    "coroutine",
    "debug",
    "dofile",
    "error",
    "getfenv",
    "getmetatable",
    "io",
    "ipairs",
    "jit",
    "load",
    "loadfile",
    "loadstring",
    "math",
    "module",
    "next",
    "os",
    "package",
    "pairs",
    "pcall",
    "print",
    "rawequal",
    "rawget",
    "rawlen",
    "rawset",
    "require",
    "select",
    "setfenv",
    "setmetatable",
    "string",
    "table",
    "tonumber",
    "tostring",
    "type",
    "unpack",
    "utf8",
    "warn",
    "xpcall",
];

/// Calls that see the function they are made from.
pub const FRAME_READERS: &[&str] = &[
    "debug.getinfo",
    "debug.traceback",
    "debug.getlocal",
    "debug.setlocal",
    "debug.sethook",
    "debug.getupvalue",
    "debug.setupvalue",
    "getfenv",
    "setfenv",
    "module",
];

/// Calls that only compute; with `!` those that do not.
pub const QUIET_CALLS: &[&str] = &[
    "!math.random",
    "!math.randomseed",
    "math.*",
    "rawequal",
    "rawget",
    "rawlen",
    "select",
    "string.byte",
    "string.char",
    "string.find",
    "string.len",
    "string.lower",
    "string.match",
    "string.rep",
    "string.reverse",
    "string.sub",
    "string.upper",
    "tonumber",
    "type",
];

pub const COLLECTIONS: Collections = Collections {
    makers: &[],
    asking_makers: &[],
    growing: &[],
    placing: &[],
    telling: &[],
    views: &[],
    reading: &["table.concat", "table.unpack", "unpack"],
    counting: &[],
    going: &["pairs", "ipairs"],
};

/// Beginnings of comments that tools read.
pub const DIRECTIVES: &[&str] = &["luacheck", "selene", "stylua", "@", "!", "#"];
