//! The kinds of what is only in the way.

use serde::{Deserialize, Serialize};

/// What is in the way of who reads.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Clutter {
    /// Statements that nothing reaches.
    Unreachable,
    /// Imports, locals and private functions that nothing uses.
    Unused,
    /// Code that was made a comment.
    CommentedCode,
    /// Comments that say what the line below says.
    Echo,
    /// Output that was left over from a search for a fault.
    Debug,
}

impl Clutter {
    pub const ALL: [Clutter; 5] =
        [Clutter::Unreachable, Clutter::Unused, Clutter::CommentedCode, Clutter::Echo, Clutter::Debug];

    pub fn word(self) -> &'static str {
        match self {
            Clutter::Unreachable => "unreachable",
            Clutter::Unused => "unused",
            Clutter::CommentedCode => "commented-code",
            Clutter::Echo => "echo",
            Clutter::Debug => "debug",
        }
    }

    pub fn of(word: &str) -> Option<Clutter> {
        Clutter::ALL.into_iter().find(|k| k.word() == word)
    }
}
