//! What evaluating does: what is seen, looked up, held or left, and what the library is known to do.

use crate::lang::Definitions;
use crate::names::Source;
use crate::tree::{Field, NodeId, Tree};

#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Doing {
    Nothing,
    MayThrow,
    /// Runs code that is not known.
    Anything,
}

/// Collections of the library: what makes them, and what their methods do.
#[derive(Debug, Default)]
pub struct Collections {
    /// What makes a new one that keeps what is put in as it is.
    pub makers: &'static [&'static str],
    /// What makes one that asks for the hash or the text of what is put in.
    pub asking_makers: &'static [&'static str],
    /// Methods that put their one argument in, and do not fail.
    pub growing: &'static [&'static str],
    /// The same of a key and its value.
    pub placing: &'static [&'static str],
    /// Methods that give an element or a count, and hand over nothing that stays tied to it.
    pub telling: &'static [&'static str],
    /// Methods that give its keys, values or entries to go through.
    pub views: &'static [&'static str],
    /// Functions that read a collection and keep nothing of it.
    pub reading: &'static [&'static str],
    /// Functions that count, to be gone through.
    pub counting: &'static [&'static str],
    /// Functions that go through their arguments.
    pub going: &'static [&'static str],
}

/// A call that looks members up by their names, or lists them.
pub struct Look {
    /// What they are looked for in, where the call says it.
    pub object: Option<NodeId>,
    /// The names; none where all are listed.
    pub names: Option<Vec<NodeId>>,
    /// Only such members, where it looks for no others.
    pub sort: Option<Sort>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sort {
    Function,
    Value,
}

impl Look {
    /// `look(object, name)`
    pub fn second(arguments: &[NodeId]) -> Look {
        Look { object: arguments.first().copied(), names: arguments.get(1).map(|n| vec![*n]), sort: None }
    }
    /// `list(object)`
    pub fn all(arguments: &[NodeId]) -> Look {
        Look { object: arguments.first().copied(), names: None, sort: None }
    }
    /// `object.look(name)`
    pub fn on_object(source: &Source, call: NodeId, names: &[NodeId]) -> Look {
        let t = &source.tree;
        let object = t.child(call, Field::Callee).and_then(|c| t.child(c, Field::Object));
        Look { object, names: Some(names.to_vec()), sort: None }
    }
}

/// What of the objects of a class is kept, or told, by the class's name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stored {
    Not,
    /// They say which class they are of.
    ByName,
    /// Their form depends on the members of the class, too.
    ByMembers,
}

pub trait Semantics: Sync {
    /// Calls that see the frame they are made from, so that they can't move to another function.
    fn reads_frame(&self, callee: &str, call: &str) -> bool;
    /// A call whose callee is told which function it stands in, by the way in which it is declared.
    fn tells_caller(&self, _source: &Source, _call: NodeId) -> bool {
        false
    }
    /// Calls that see the locals of the function they are made from, so that nothing of it can move.
    fn reads_locals(&self, callee: &str, call: &str) -> bool;
    /// Names that hold the names of the code around.
    fn name_tables(&self) -> &'static [&'static str] {
        &[]
    }
    /// Calls that list the names around them, and those of a module where they are given one.
    fn frame_listers(&self) -> &'static [&'static str] {
        &[]
    }
    /// Calls that run a text as code.
    fn runs_texts(&self, callee: &str) -> bool {
        ["eval", "exec"].contains(&callee)
    }
    /// A text in a program may be code of its own language, which is run or shown; where not, it is at most a name.
    fn texts_may_be_code(&self) -> bool {
        true
    }
    /// Words by which a function looks at those that called it: `word`, `module.word`, or `*.word` of an object made there.
    fn stack_words(&self) -> &'static [&'static str];
    /// Calls, and statements of one word, that somebody leaves behind who looked for a fault; `*.word` of any object.
    fn fault_finders(&self) -> &'static [&'static str] {
        &[]
    }
    /// Calls that only compute; `word*` for all that begin so, `!word` before it for one that does more.
    fn quiet_calls(&self) -> &'static [&'static str] {
        &[]
    }
    /// Methods of the language's own texts, numbers and dates that only compute, by name; `word/2` with two arguments or
    /// more, `word+` of one that makes an object. Other objects may have methods of that name.
    fn quiet_methods(&self) -> &'static [&'static str] {
        &[]
    }
    /// The same where a type tells whose method is called; and whether it makes an object.
    fn computes_by_type(&self, _source: &Source, _call: NodeId, _definitions: &Definitions) -> Option<bool> {
        None
    }
    /// Calls that print their arguments.
    fn printers(&self) -> &'static [&'static str] {
        &[]
    }
    fn collections(&self) -> &'static Collections;
    /// A loop calls a function for each turn, which may have nothing more to give afterwards.
    fn loops_call(&self) -> bool {
        false
    }
    /// A variable that can be gone through any number of times, by its type.
    fn is_gone_through_again(&self, _source: &Source, _name: NodeId, _definitions: &Definitions) -> bool {
        false
    }
    /// Argument names that count stack frames.
    fn counts_frames(&self, argument: &str) -> bool;
    /// A context manager that is meant to end a block early without leaving the function.
    fn swallows(&self, manager: &str) -> bool;
    /// The member of a context manager that says whether it does.
    fn leaving_member(&self) -> Option<&'static str> {
        None
    }
    /// A context manager that surely does not end its block early without leaving the function.
    fn lets_exceptions_through(&self, manager: &str) -> bool;
    /// A wait in the new function lets others go on once more than before.
    fn waits_take_turns(&self) -> bool {
        false
    }
    /// Words in texts by which the function that code stands in is shown.
    fn frame_texts(&self) -> &'static [&'static str] {
        &[]
    }
    /// Those of the look-ups that list all names of a module or a class.
    fn listing_words(&self) -> &'static [&'static str];
    /// Those that list the members of any object, methods too.
    fn member_listing_words(&self) -> &'static [&'static str];
    /// The same of calls that list the members of a class which they are given, and of no other object.
    fn class_listing_words(&self) -> &'static [&'static str] {
        &[]
    }
    /// Methods by which a class sees every look at a member of its objects.
    fn member_watchers(&self) -> &'static [&'static str] {
        &[]
    }
    /// Calls and members that give the class of an object.
    fn class_words(&self) -> &'static [&'static str] {
        &[]
    }
    /// The parameter that is the class, in methods that have no object.
    fn is_class_receiver(&self, _name: &str) -> bool {
        false
    }
    /// Last words of calls, and members, that look names up by a text or list them.
    fn lookup_words(&self) -> &'static [&'static str];
    /// What a call of one of them, with these arguments, looks for.
    fn look(&self, _source: &Source, _call: NodeId, _word: &str, arguments: &[NodeId]) -> Option<Look> {
        Some(Look::second(arguments))
    }
    /// Last words of calls that make objects of data, whose members have the names that the data has.
    fn data_words(&self) -> &'static [&'static str];
    /// A type of the language whose objects hold values of any type, that of the first ones where none is written.
    fn holds_anything(&self, _made: &str) -> bool {
        false
    }
    /// A function of the language that takes values of any type.
    fn takes_anything(&self, _callee: &str) -> bool {
        false
    }
    /// A value of a type that runs no code and can't fail where it is read, printed or made into another such type.
    fn is_plain_value(&self, _source: &Source, _value: NodeId) -> bool {
        false
    }
    /// What evaluating an operator or taking a member may do, beyond what its parts do.
    fn doing(&self, _source: &Source, _expression: NodeId) -> Doing {
        Doing::Anything
    }
    /// A path that gives the same value whenever it is read.
    fn is_constant(&self, _source: &Source, _path: NodeId, _definitions: &Definitions) -> bool {
        false
    }
    /// The member that runs when the last holder of an object goes, where that is at once.
    fn finalizer(&self) -> Option<&'static str> {
        None
    }
    /// What a local holds is closed where its block ends.
    fn closes_at_end(&self, _source: &Source, _declaration: NodeId) -> bool {
        false
    }
    /// Last words of calls whose object holds something as long as it is held itself.
    fn holding_calls(&self) -> &'static [&'static str] {
        &[]
    }
    /// Members by which code sees what a function or class is called.
    fn name_members(&self) -> &'static [&'static str];
    /// Words by which code sees what classes are called, or shows it.
    fn class_showing_words(&self) -> &'static [&'static str] {
        &[]
    }
    /// An expression that gives the class of an object: the object.
    fn class_of(&self, source: &Source, expression: NodeId) -> Option<NodeId>;
    /// A definition or a use of a function that could make objects whose class it is.
    fn is_maker(&self, _source: &Source, _function: NodeId) -> bool {
        false
    }
    /// Members that libraries call on objects of their subclasses; `*` for any end.
    fn demanded_members(&self) -> &'static [&'static str];
    /// Bases from elsewhere that demand no members and list none.
    fn harmless_bases(&self) -> &'static [&'static str];
    /// A member can be taken by a computed key.
    fn members_are_keys(&self) -> bool;
    /// Callers may pass more arguments than there are parameters.
    fn passes_extra_arguments(&self) -> bool;
    /// An expression that stands for a variable, or a part of one, that is written there or kept: its value, or another
    /// variable with the same value, would not do.
    fn is_place(&self, _source: &Source, _node: NodeId) -> bool {
        false
    }
    /// A function that is a value has copies of the variables around it, and can't give them others.
    fn closures_copy(&self) -> bool {
        false
    }
    /// A variable that surely holds a collection of its own: what others do changes nothing in it.
    fn is_own_value(&self, _source: &Source, _name: NodeId) -> bool {
        false
    }
    /// What a function gives is the variable itself.
    fn gives_places(&self, _source: &Source, _function: NodeId) -> bool {
        false
    }
    /// What a function yields can't be handed on by another one as it is: it has keys, or there is no form for it.
    fn yields_keys(&self) -> bool {
        false
    }
    /// A bare name that runs code where it is read: a member that is a pair of functions.
    fn runs_when_read(&self, _source: &Source, _name: NodeId) -> bool {
        false
    }
    /// Callers may leave out the last argument.
    fn passes_fewer_arguments(&self) -> bool {
        true
    }
    /// A word that hands a function on without calling it, though no name of its file is bound to the function.
    fn hands_on(&self, _source: &Source, _word: NodeId) -> bool {
        false
    }
    /// Running a function is more than running its statements: it locks its object, say.
    fn does_more(&self, _source: &Source, _function: NodeId) -> bool {
        false
    }
    /// Code may run when a class is first used.
    fn acts_when_loaded(&self, _source: &Source, _class: NodeId, _definitions: &Definitions) -> bool {
        false
    }
    /// What a member of a class does when the class is first used may be seen, or may hang on what was done before.
    fn acts_when_made(&self, _source: &Source, _member: NodeId, _definitions: &Definitions) -> bool {
        true
    }
    /// Why a function can't stay beside one of its name with a parameter more.
    fn keeps_no_signature(&self, _source: &Source, _function: NodeId) -> Option<&'static str> {
        None
    }
    /// How objects of a class are stored, or show what they are when they are thrown.
    fn stored(&self, _source: &Source, _class: NodeId, _definitions: &Definitions) -> Stored {
        Stored::Not
    }
    /// Objects of a class are stored in a form that depends on which functions the class shows.
    fn is_stored_by_members(&self, source: &Source, class: NodeId, definitions: &Definitions) -> bool {
        self.stored(source, class, definitions) == Stored::ByMembers
    }
    /// A value that may be none or several values where such are taken.
    fn gives_several(&self, _source: &Source, _value: NodeId) -> bool {
        false
    }
    /// A place that takes all the values that are given there.
    fn takes_several(&self, _source: &Source, _place: NodeId) -> bool {
        false
    }
    /// A value that may be none or several where it stands, which a variable in its place is not.
    fn is_several(&self, source: &Source, value: NodeId) -> bool {
        self.gives_several(source, value) && self.takes_several(source, value)
    }
    /// What is made in a turn of a loop and called later sees that turn's variables.
    fn loop_variables_are_fresh(&self) -> bool {
        false
    }
    /// It must be seen of a variable that it has a value before it is read; a loop may not turn at all.
    fn checks_first_values(&self) -> bool {
        false
    }
    /// Only a constant can stand in the place of this literal.
    fn needs_constant(&self, _source: &Source, _literal: NodeId) -> bool {
        false
    }
    /// A function that is a value sees only variables that get one value.
    fn captures_fixed_only(&self) -> bool {
        false
    }
    /// A function that is a value can use what this name stands for.
    fn closures_take(&self, _source: &Source, _name: NodeId) -> bool {
        true
    }
    /// The parameters of a function inside another one may be called like locals around it.
    fn closures_hide_locals(&self) -> bool {
        true
    }
    /// A parameter added to a function must be passed by its name.
    fn passes_by_name(&self, source: &Source, function: NodeId) -> bool;
    /// Code at the top level of a module that only defines, so that loading it has no effect that can be seen.
    /// Calls, decorators and bases of the language's own library that only make something: `module.name`, the bare names of
    /// built-ins, `.name` of what a class made itself.
    fn makers_when_loaded(&self) -> &'static [&'static str] {
        &[]
    }
    /// Members by which a class does something with those that extend it.
    fn class_hooks(&self) -> &'static [&'static str] {
        &[]
    }
    /// Calls that see the names of the file in which they stand.
    fn reads_module_names(&self) -> &'static [&'static str] {
        &[]
    }
    /// Words of calls that say in which file they stand.
    fn place_showing_words(&self) -> &'static [&'static str] {
        &[]
    }
    /// Members by which a program says which options it takes: a table that is written as calls.
    fn option_members(&self) -> &'static [&'static str] {
        &["add_argument", "add_option", "addOption", "addArgument"]
    }
    /// Words of code that sees in which function something was declared.
    fn path_words(&self) -> &'static [&'static str] {
        &[]
    }
    /// Words of code that sees in which module something was defined.
    fn module_showing_words(&self) -> &'static [&'static str] {
        &[]
    }
    fn is_plain_top_level(&self, tree: &Tree, statement: NodeId, text: &str) -> bool;
}
