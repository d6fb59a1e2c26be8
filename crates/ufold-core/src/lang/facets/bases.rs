//! A class that others extend: how it is written, how they come to extend it, and what of them it can take.

use crate::names::Source;
use crate::text::Edit;
use crate::tree::NodeId;

/// Parts of a constructor.
pub struct ConstructorParts<'a> {
    pub class: &'a str,
    /// As they are written, the object among them where it is one.
    pub parameters: &'a [String],
    /// With its indentation.
    pub body: &'a str,
    pub indent: &'a str,
    pub unit: &'a str,
}

pub trait Bases: Sync {
    /// A class of that name; each member with its indentation. `open` to all code.
    fn class(&self, like: &Source, name: &str, members: &str, open: bool) -> String;
    /// The edit by which a class extends one more, before those that it extends; none where it can have no other.
    fn extended(&self, s: &Source, class: NodeId, base: &str) -> Option<Edit>;
    /// A base that is the same as none.
    fn is_no_base(&self, _name: &str) -> bool {
        false
    }
    /// Methods that answer for members which an object has not.
    fn answering(&self) -> &'static [&'static str] {
        &[]
    }
    /// A value that a class has for its objects, as a declaration in it, and whether that is a function; none where code of
    /// a class above could not ask for it.
    fn value_of_class(&self, _like: &Source, _name: &str, _value: &str) -> Option<(String, bool)> {
        None
    }
    /// The name of such a value.
    fn value_name(&self, words: &[String]) -> String {
        words.join("_")
    }
    fn constructor(&self, parts: &ConstructorParts) -> String;
    /// The statement that hands arguments to the constructor above.
    fn call_above(&self, like: &Source, arguments: &[String]) -> String;
    /// A statement that does so.
    fn is_call_above(&self, s: &Source, statement: NodeId) -> bool;
    /// A constructor of a class that extends another says that it calls the one above.
    fn must_call_above(&self) -> bool;
    /// A class without a constructor has the one above, with its parameters.
    fn inherits_constructors(&self) -> bool;
    /// The function makes the object ready.
    fn is_constructor(&self, s: &Source, function: NodeId) -> bool;
    /// A member that the class has, and not each of its objects.
    fn is_of_class(&self, s: &Source, member: NodeId) -> bool;
    /// The edits to a member by which code of the classes below may name it, and without words that are true only in its
    /// own class; none where the member can't be told from there.
    fn opened(&self, s: &Source, member: NodeId, named_below: bool) -> Option<Vec<Edit>>;
    /// Why a member can only be its own class's.
    fn stays(&self, s: &Source, member: NodeId) -> Option<&'static str>;
    /// What a class in a function keeps from one call of it to the next: a variable that exists once.
    fn kept_over_calls(&self, _s: &Source, _class: NodeId) -> Option<NodeId> {
        None
    }
    /// Objects of a class in a function show, as texts, where it stands.
    fn shows_its_path(&self, _s: &Source, _class: NodeId) -> bool {
        false
    }
    /// Each class has one of its own of this, and all would have the same one by a base.
    fn would_be_shared(&self, _s: &Source, _member: NodeId) -> bool {
        false
    }
    /// Why the class as a whole can't get its members from another one.
    fn is_closed(&self, s: &Source, class: NodeId) -> Option<&'static str>;
    /// Why the class's own members can't be another one's, nor another one's members its own.
    fn keeps_to_itself(&self, s: &Source, class: NodeId) -> Option<&'static str> {
        self.is_closed(s, class)
    }
    /// Names of members that only mean something together.
    fn together(&self) -> &'static [&'static str] {
        &[]
    }
    /// Members that every object has anyway, in another way.
    fn every_object_has(&self, name: &str) -> bool;
    /// A field that has no value unless a constructor gives it one, and must have one.
    fn must_be_given(&self, s: &Source, member: NodeId) -> bool;
    /// A member's head, or its value, is code that runs when the class is made.
    fn runs_when_made(&self, s: &Source, member: NodeId) -> bool;
    /// Values that parameters have when nothing is passed are made once, with the function.
    fn shares_defaults(&self) -> bool {
        false
    }
    /// The edits by which a class that stood in another one loses the words that are only said there.
    fn at_top(&self, _s: &Source, _class: NodeId) -> Vec<Edit> {
        Vec::new()
    }
    /// Why a class can't go to another package.
    fn is_of_its_package(&self, _s: &Source, _class: NodeId) -> Option<&'static str> {
        None
    }
    /// The function by which a program can begin with the class.
    fn starts_a_program(&self, _s: &Source, _class: NodeId) -> Option<NodeId> {
        None
    }
    /// Who starts a program by the class, or finds it by what it is marked with, and needs it where it is.
    fn is_found_from_outside(&self, _s: &Source, _class: NodeId) -> Option<(NodeId, &'static str)> {
        None
    }
    /// Words by which code asks in which package a class is, or for files that lie beside it.
    fn package_words(&self) -> &'static [&'static str] {
        &[]
    }
    /// Files that say which packages others may use.
    fn package_lists(&self) -> &'static [&'static str] {
        &[]
    }
    /// Words of comments behind which the name of a class stands as code.
    fn comment_links(&self) -> &'static [&'static str] {
        &[]
    }
    /// The order in which an object gets its members can be seen.
    fn keeps_order(&self) -> bool;
    /// What stands in a body that says nothing, where one must.
    fn nothing(&self) -> &'static str {
        ""
    }
    /// Words by which code goes through what a class itself declares.
    fn own_listing_words(&self) -> &'static [&'static str];
    /// Words by which code asks what a class extends.
    fn asking_words(&self) -> &'static [&'static str];
}
