//! Libraries that a project carries among its own files: what stands in them is changed where they come from.
//!
//! Told by the place, a folder for what is served or put together, and by what such files say first: a name with a
//! version, a licence and an address. Misses those without such a head, and those that stand among the project's own code.

use std::sync::LazyLock;

use regex::Regex;

use super::paths::is_output;

/// Lines of a file in which its head is looked for, and those of the head that may name the version.
const HEAD: usize = 30;
const NAMING: usize = 4;

/// A version, as in `1.2.2` or `v1.7`.
static VERSION: LazyLock<Regex> = LazyLock::new(|| Regex::new(r"\bv?\d+\.\d+(\.\d+)*\b").expect("a pattern"));

/// What a line about rights says; numbers in it are not the file's version.
pub(crate) const RIGHTS: [&str; 6] = ["licen", "copyright", "(c)", "gpl", "mpl", "rights reserved"];

pub fn is_carried(path: &str, text: &str) -> bool {
    if !is_output(path) {
        return false;
    }
    let is_comment = |l: &&str| l.trim_start().starts_with(['/', '*', '#', '-']);
    let head: Vec<String> = text
        .lines()
        .take(HEAD)
        .filter(|l| !l.trim().is_empty())
        .take_while(is_comment)
        .map(str::to_ascii_lowercase)
        .collect();
    let of_rights = |l: &&String| RIGHTS.iter().any(|w| l.contains(w));
    let names = |l: &String| VERSION.is_match(l) && l.chars().any(char::is_alphabetic) && !of_rights(&l);
    head.iter().take(NAMING).any(names) && head.iter().any(|l| of_rights(&l)) && head.iter().any(|l| l.contains("://"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_library_says_its_name_version_licence_and_address() {
        let line = "// Tideline.js 1.2.2\n// (c) 2011 Made Up\n// under the MIT license, see http://tideline.example\n";
        let block = "/*!\n * Tideline v1.7\n * http://tideline.example/\n * Copyright 2016\n */\n(function() {})();\n";
        let own = "/*\n * Licensed under the Made Up License, Version 2.0\n * http://port.example/LICENSE-2.0\n */\n";
        let plain = "// Tide display 2.1\nvar a = 'http://port.example (c)';\n";
        for (path, text, carried) in [
            ("web/static/tideline.js", line, true),
            ("web/static/tideline.js", block, true),
            ("web/tideline.js", line, false),
            ("web/static/own.js", own, false),
            ("web/static/own.js", plain, false),
            ("web/static/own.js", "", false),
        ] {
            assert_eq!(is_carried(path, text), carried, "{path} {text}");
        }
    }
}
