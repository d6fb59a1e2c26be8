//! What is known of types, and how they are written.

use crate::lang::Definitions;
use crate::names::{BindingId, Source};
use crate::tree::{NodeId, Tree};
use crate::types::Ty;

/// The type of what has one of several.
pub struct Joined {
    pub ty: Ty,
    /// It is none of them: code that is right for each need not be right for it.
    pub is_wider: bool,
}

/// What a word is of, where types tell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MemberOf {
    /// A member that this class of the project declares.
    Class(Ty),
    /// The same, unless something outside the project has a name in it that hides it.
    Likely(Ty),
    /// A member of something else, or no member at all.
    Other,
    Unknown,
}

/// Members by their names, and whether nothing without one is taken for its type.
pub type OwnMembers = Vec<(String, bool)>;

pub trait Typing: Sync {
    /// Parameters must have types.
    fn needs_types(&self) -> bool;
    /// A function must say the type of its result.
    fn needs_result_type(&self) -> bool {
        false
    }
    /// Every local is declared with its type, or with a word that takes its place.
    fn types_locals(&self) -> bool {
        false
    }
    /// Classes of values of all kinds, whose names say nothing of what a value is for.
    fn plain_types(&self) -> &'static [&'static str] {
        &[]
    }
    /// The type of a value or of a local.
    fn type_of(&self, source: &Source, node: NodeId, definitions: &Definitions) -> Ty;
    /// The type that a value has when it is taken before the code at `from`, which may know more of it when it comes to it.
    fn type_from(&self, source: &Source, node: NodeId, _from: NodeId, definitions: &Definitions) -> Ty {
        self.type_of(source, node, definitions)
    }
    /// What conditions before the code at `from` tell of a variable or a member that it uses, which another function would
    /// not know: its type, perhaps an unknown one.
    fn told_before(&self, _source: &Source, _node: NodeId, _from: NodeId, _definitions: &Definitions) -> Option<Ty> {
        None
    }
    /// The type that a literal alone has, where there are such types.
    fn type_of_literal(&self, _source: &Source, _literal: NodeId) -> Ty {
        Ty::UNKNOWN
    }
    /// The type of all values of its kind, for one that is a single value's.
    fn general(&self, ty: Ty) -> Ty {
        ty
    }
    /// What is given by a function that says this of what it gives to those who wait.
    fn awaited_type(&self, _written: &str) -> Option<String> {
        None
    }
    /// A value whose type, or that of its parameters, comes from the place that it is given to; `is_asked`: the place asks
    /// for a type.
    fn takes_type_from_around(&self, _source: &Source, _value: NodeId, _is_asked: bool) -> bool {
        false
    }
    /// The file's author writes the types of results, though the compiler would find them.
    fn says_result_types(&self, _source: &Source) -> bool {
        false
    }
    /// How a type is written at a place of a file, when its words mean the same there.
    fn spell(&self, ty: Ty, at: &Source, definitions: &Definitions) -> Option<String>;
    /// One type for values of all of these, none where there is no such type that a person would write.
    fn join(&self, types: &[Ty]) -> Option<Joined> {
        let first = types.first().copied().filter(|t| t.is_known())?;
        types.iter().all(|t| *t == first).then_some(Joined { ty: first, is_wider: false })
    }
    /// A value without a type of its own, such as nothing at all, is one of this type where it stands, and nothing there is
    /// chosen by its having none.
    fn takes_type_of_place(&self, _source: &Source, _value: NodeId, _of: Ty, _definitions: &Definitions) -> bool {
        false
    }
    /// Values of all types are of this one.
    fn takes_all(&self, _of_type: &str) -> bool {
        false
    }
    /// The type that is just these literals, where there are such types.
    fn of_literals(&self, _texts: &[&str]) -> Option<String> {
        None
    }
    /// The type of a function with these parameters (name and type) and one of these results.
    fn function_type(&self, _parameters: &[(String, String)], _results: &[String]) -> Option<String> {
        None
    }
    /// The type of several values as one, each with its type and its name, where a function can give such.
    fn several_type(&self, _members: &[(String, String)]) -> Option<String> {
        None
    }
    /// The text of a type names a local of a function: its type, or one that it declares.
    fn is_named_in_type(&self, _source: &Source, _text: &str, _local: BindingId) -> bool {
        false
    }
    /// A type, whole: another one can stand in its place.
    fn is_whole_type(&self, _tree: &Tree, _node: NodeId) -> bool {
        false
    }
    /// Whether objects of other making can stand for those of a class, as long as it has no private member.
    fn is_shape(&self, _source: &Source, _class: NodeId) -> bool {
        false
    }
    /// The members that such a type declares itself, and whether nothing without it is taken for the type; none where not
    /// all can be told.
    fn own_members(&self, _source: &Source, _class: NodeId) -> Option<OwnMembers> {
        None
    }
    /// Whether the result of a function may be no value.
    fn may_give_nothing(&self, _source: &Source, _function: NodeId) -> bool {
        true
    }
    /// Exceptions that a function with the code from `first` up to `end` must declare; an error where that can't be told.
    fn declared_exceptions(
        &self,
        _source: &Source,
        _first: NodeId,
        _end: NodeId,
        _definitions: &Definitions,
    ) -> Result<Vec<String>, (NodeId, String)> {
        Ok(Vec::new())
    }
    /// The types that a function says it throws.
    fn says_it_throws(&self, _source: &Source, _function: NodeId) -> Vec<NodeId> {
        Vec::new()
    }
    /// A value's place that asks more of it than its type: another value of the type would not do, or be another program.
    fn asks_more_than_type(&self, _source: &Source, _value: NodeId, _definitions: &Definitions) -> bool {
        false
    }
    /// The value may be one that the compiler knows, and uses to tell what can be reached and which types it fits.
    fn may_be_constant(&self, _source: &Source, _value: NodeId) -> bool {
        false
    }
    /// The type that is written for a variable behind its name, as one that any variable can have.
    fn annotation(&self, _source: &Source, _name: NodeId) -> Option<String> {
        None
    }
    /// What declares a local that is written at the start of its declaration: a word or a type. `declared`: what did so.
    fn local_word(
        &self,
        _source: &Source,
        _local: BindingId,
        _declared: Option<&str>,
        _definitions: &Definitions,
    ) -> Option<String> {
        None
    }
    /// Whether variables have narrower types after a call of a function of that name; `result`: what it says it gives,
    /// none for one that is not known.
    fn narrows(&self, _function: &str, _result: Option<&str>) -> bool {
        false
    }
    /// Whether a class may have a member of that name from those outside the project that it extends.
    fn may_inherit(&self, _source: &Source, _class: NodeId, _name: &str, _definitions: &Definitions) -> bool {
        false
    }
    /// The class that declares the member which a word names.
    fn member_of(&self, _source: &Source, _word: NodeId, _definitions: &Definitions) -> MemberOf {
        MemberOf::Unknown
    }
    /// What a bare name would be in the place of a word among the classes around it and those they extend, whatever is
    /// imported.
    fn member_around(&self, _source: &Source, _word: NodeId, _name: &str, _definitions: &Definitions) -> MemberOf {
        MemberOf::Other
    }
    /// The class that a word names.
    fn class_named(&self, _source: &Source, _word: NodeId, _definitions: &Definitions) -> MemberOf {
        MemberOf::Unknown
    }
    /// What a name would mean among the classes above those around a place; that hides what is seen from farther.
    fn class_above_place(&self, _source: &Source, _place: NodeId, _name: &str, _definitions: &Definitions) -> MemberOf {
        MemberOf::Unknown
    }
    /// Objects of a class show its name: as texts, or where they are stored.
    fn shows_its_name(&self, _source: &Source, _class: NodeId, _definitions: &Definitions) -> bool {
        true
    }
    /// The file that must be called like a class, for a class of that name in it; none where the name is free.
    fn file_of_class(&self, _source: &Source, _class: NodeId, _name: &str) -> Option<String> {
        None
    }
    /// What a class promises besides the class that it extends may have a member of that name.
    fn may_get_besides(&self, _source: &Source, _class: NodeId, _name: &str, _definitions: &Definitions) -> bool {
        true
    }
    /// The same of a method that a class has from those above it, whatever it declares itself.
    fn member_above(&self, _source: &Source, _class: NodeId, _name: &str, _definitions: &Definitions) -> MemberOf {
        MemberOf::Unknown
    }
    /// The class of the project that a declaration makes, as a type; those that it extends.
    fn class_type(&self, _source: &Source, _class: NodeId, _definitions: &Definitions) -> (Ty, Vec<Ty>) {
        (Ty::UNKNOWN, Vec::new())
    }
    /// Why a member can't have another name, or under which assumption it can.
    fn named_from_outside(&self, _source: &Source, _declaration: NodeId) -> Option<(&'static str, bool)> {
        None
    }
    /// Types are written where the author likes, and looked at when a function is called.
    fn types_are_checked(&self) -> bool {
        false
    }
    /// The type that a value, or a parameter where it is declared, surely has, as it is written, where it is the same type
    /// for every call that comes there.
    fn sure_type(&self, _source: &Source, _value: NodeId) -> Option<String> {
        None
    }
    /// A value that is given where a type is declared may become another value.
    fn may_convert(&self, _value: (&Source, NodeId), _declared: (&Source, NodeId)) -> bool {
        false
    }
    /// Annotation for the type of a literal.
    fn literal_type(&self, literal: &str) -> Option<&'static str>;
    /// Annotation of a function without a result.
    fn no_result_type(&self) -> &'static str;
}
