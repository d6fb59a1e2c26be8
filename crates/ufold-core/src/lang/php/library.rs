//! What is known of PHP's own library: its words, its functions and what they take by reference, what some of them do.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

use crate::lang::Collections;

pub const KEYWORDS: &[&str] = &[
    "abstract",
    "and",
    "array",
    "as",
    "break",
    "callable",
    "case",
    "catch",
    "class",
    "clone",
    "const",
    "continue",
    "declare",
    "default",
    "die",
    "do",
    "echo",
    "else",
    "elseif",
    "empty",
    "enddeclare",
    "endfor",
    "endforeach",
    "endif",
    "endswitch",
    "endwhile",
    "enum",
    "eval",
    "exit",
    "extends",
    "false",
    "final",
    "finally",
    "fn",
    "for",
    "foreach",
    "function",
    "global",
    "goto",
    "if",
    "implements",
    "include",
    "include_once",
    "instanceof",
    "insteadof",
    "interface",
    "isset",
    "list",
    "match",
    "namespace",
    "new",
    "null",
    "or",
    "parent",
    "print",
    "private",
    "protected",
    "public",
    "readonly",
    "require",
    "require_once",
    "return",
    "self",
    "static",
    "switch",
    "throw",
    "trait",
    "true",
    "try",
    "unset",
    "use",
    "var",
    "while",
    "xor",
    "yield",
];

/// Variables that all functions see (PHP Manual, Superglobals).
pub const SUPERGLOBALS: &[&str] =
    &["$GLOBALS", "$_COOKIE", "$_ENV", "$_FILES", "$_GET", "$_POST", "$_REQUEST", "$_SERVER", "$_SESSION"];

/// Words that act like functions.
pub const ACTING_WORDS: &[&str] = &[
    "echo",
    "print",
    "exit",
    "die",
    "isset",
    "empty",
    "eval",
    "include",
    "include_once",
    "require",
    "require_once",
    "unset",
    "array",
    "list",
];

/// How an argument is passed by reference.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Passing {
    pub at: usize,
    /// `=` it only gets a value, `&` it may be read too, `~` the variable itself is kept.
    pub how: u8,
    pub all_from_there: bool,
}

impl Passing {
    pub fn takes(&self, argument: usize) -> bool {
        argument == self.at || self.all_from_there && argument > self.at
    }
}

static FUNCTIONS: LazyLock<FxHashMap<&'static str, Vec<Passing>>> = LazyLock::new(|| {
    let lines = include_str!("library.txt").lines().filter(|l| !l.starts_with('#'));
    lines
        .filter_map(|l| {
            let mut words = l.split(' ');
            let name = words.next()?;
            let passing = words.filter_map(|w| {
                let all_from_there = w.ends_with('+');
                let at = w[1..].trim_end_matches('+').parse().ok()?;
                Some(Passing { at, how: w.as_bytes()[0], all_from_there })
            });
            Some((name, passing.collect()))
        })
        .collect()
});

/// What a function of the library, or a method (`.name`), takes by reference; the name in lower case.
pub fn passing(name: &str) -> Vec<Passing> {
    FUNCTIONS.get(name).cloned().unwrap_or_default()
}

pub fn is_function(name: &str) -> bool {
    FUNCTIONS.contains_key(name.to_ascii_lowercase().as_str())
}

/// Calls that see the function they are made from.
pub const FRAME_READERS: &[&str] =
    &["func_get_args", "func_get_arg", "func_num_args", "debug_backtrace", "debug_print_backtrace", "get_called_class"];

/// Calls that see, or make, variables of the function they are made from.
pub const LOCALS_READERS: &[&str] =
    &["compact", "extract", "get_defined_vars", "eval", "include", "include_once", "require", "require_once"];

/// Calls that only compute.
pub const QUIET_CALLS: &[&str] = &[
    "abs",
    "array_combine",
    "array_diff",
    "array_diff_key",
    "array_fill",
    "array_fill_keys",
    "array_flip",
    "array_intersect",
    "array_intersect_key",
    "array_key_exists",
    "array_key_first",
    "array_key_last",
    "array_keys",
    "array_merge",
    "array_pad",
    "array_product",
    "array_reverse",
    "array_search",
    "array_slice",
    "array_sum",
    "array_unique",
    "array_values",
    "base64_encode",
    "basename",
    "bin2hex",
    "ceil",
    "chr",
    "count",
    "crc32",
    "ctype_alpha",
    "ctype_digit",
    "dirname",
    "explode",
    "floatval",
    "floor",
    "fmod",
    "gettype",
    "hexdec",
    "implode",
    "in_array",
    "intdiv",
    "intval",
    "is_array",
    "is_bool",
    "is_float",
    "is_int",
    "is_null",
    "is_numeric",
    "is_object",
    "is_string",
    "isset",
    "empty",
    "lcfirst",
    "ltrim",
    "max",
    "mb_strlen",
    "mb_strpos",
    "mb_strtolower",
    "mb_strtoupper",
    "mb_substr",
    "md5",
    "min",
    "number_format",
    "ord",
    "pow",
    "range",
    "round",
    "rtrim",
    "sha1",
    "sprintf",
    "sqrt",
    "str_contains",
    "str_ends_with",
    "str_pad",
    "str_repeat",
    "str_split",
    "str_starts_with",
    "strcmp",
    "strlen",
    "strpos",
    "strrev",
    "strrpos",
    "strstr",
    "strtolower",
    "strtoupper",
    "strtr",
    "substr",
    "substr_count",
    "trim",
    "ucfirst",
    "ucwords",
    "wordwrap",
];

pub const COLLECTIONS: Collections = Collections {
    makers: &[],
    asking_makers: &[],
    growing: &[],
    placing: &[],
    telling: &[],
    views: &[],
    reading: &["count", "implode", "in_array", "array_keys", "array_values", "array_sum", "array_key_exists"],
    counting: &["range"],
    going: &[],
};

/// Beginnings of comments that tools read.
pub const DIRECTIVES: &[&str] = &["@var", "@phpstan", "@psalm", "phpcs", "phpstan", "@codeCoverage", "@phan"];

/// Members that the language, or its library, calls by their names.
pub const DEMANDED: &[&str] = &[
    "__*",
    "offsetGet",
    "offsetSet",
    "offsetExists",
    "offsetUnset",
    "getIterator",
    "current",
    "key",
    "next",
    "rewind",
    "valid",
    "count",
    "jsonSerialize",
    "serialize",
    "unserialize",
    "accept",
    "getChildren",
    "hasChildren",
    "setUp",
    "tearDown",
    "setUpBeforeClass",
    "tearDownAfterClass",
    "test*",
];

/// What shows the names of classes.
pub const SHOWING_CLASSES: &[&str] = &[
    "class",
    "get_class",
    "get_debug_type",
    "get_parent_class",
    "print_r",
    "serialize",
    "var_dump",
    "var_export",
    "__CLASS__",
];
