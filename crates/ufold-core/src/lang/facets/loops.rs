//! Loops over values that are written out, and what their turns make.

use crate::lang::Row;
use crate::names::Source;
use crate::tree::{Field, NodeId};

/// A list that the turns of a loop put their values into.
pub struct Gathering<'a> {
    pub list: &'a str,
    /// Of a value, where types are written.
    pub of_type: Option<&'a str>,
    /// What the values are called behind the loop.
    pub names: &'a [String],
    /// These get other values there.
    pub rebound: bool,
}

/// How it is written.
pub struct GatheringText {
    /// The statement that makes it.
    pub made: String,
    /// What stands before a value and behind it, in the expression that puts it into the list.
    pub added: (String, String),
    /// The end of a statement.
    pub end: &'static str,
    /// The statement that gives the values to their names again.
    pub taken: String,
}

/// A list of values that is written out.
pub struct Listed<'a> {
    pub names: &'a [String],
    pub rows: &'a [Row],
    /// Something asks for the types of just these literals.
    pub own_types: bool,
}

/// A head and what closes the body.
pub type LoopText = (String, String);

pub trait Loops: Sync {
    /// The head of a loop over a list of values, one name for each column; lines after the first are indented as those of a
    /// list. None where a list of such values can't be written.
    fn over_list(&self, s: &Source, list: &Listed, unit: &str, width: usize) -> Option<LoopText>;
    /// What such a loop gives values to, and the list that it goes through to its end.
    fn goes_through(&self, s: &Source, loop_: NodeId) -> Option<(NodeId, NodeId)> {
        s.tree.child(loop_, Field::Left).zip(s.tree.child(loop_, Field::Right))
    }
    /// A loop over whole numbers, the last one included.
    fn counting(&self, s: &Source, name: &str, first: i64, last: i64) -> Option<LoopText>;
    /// First and last of what a loop of that form gives to a name.
    fn counted(&self, s: &Source, loop_: NodeId, name: &str) -> Option<(i64, i64)>;
    /// What a turn makes and is called later has the number of that turn.
    fn counter_is_fresh(&self, _s: &Source) -> bool {
        false
    }
    /// None where a list has no such form.
    fn gathering(&self, _s: &Source, _g: &Gathering) -> Option<GatheringText> {
        None
    }
    /// The member of a list by which it gets one more value behind all others.
    fn puts_last(&self) -> Option<&'static str> {
        None
    }
    /// A setting with which elements of a list may be missing for the types.
    fn missing_elements(&self) -> Option<&'static str> {
        None
    }
    /// A text that is put together can stand there for the same one that is written out.
    fn takes_made_text(&self, _s: &Source, _place: NodeId) -> bool {
        true
    }
    /// A text with a number between two parts that have no marks of their own.
    fn numbered_text(&self, _s: &Source, _before: &str, _number: &str, _behind: &str, _quote: char) -> Option<String> {
        None
    }
    /// What such a text says before its only part that is put in, that name, and behind it.
    fn text_around<'s>(
        &self,
        _s: &'s Source,
        (_text, _part): (NodeId, NodeId),
        _name: &str,
    ) -> Option<(&'s str, &'s str)> {
        None
    }
}
