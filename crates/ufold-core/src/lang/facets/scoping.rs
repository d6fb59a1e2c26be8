//! What a name means: bindings and uses, the object of a method, what is private, what is visible everywhere.

use super::Syntax;
use crate::lang::MethodKind;
use crate::names::{BindingId, Names, Source};
use crate::tree::{Field, NodeId, Tree};

pub trait Scoping: Syntax {
    fn names(&self, tree: &Tree, text: &str) -> Names;
    /// A bare name that only means something inside a method of its class.
    fn needs_class(&self, name: &str) -> bool;
    /// A member or variable name that the language rewrites per class.
    fn is_mangled(&self, name: &str) -> bool;
    /// Visible everywhere without an import.
    fn is_builtin(&self, name: &str) -> bool;
    /// Visible everywhere, but each module has its own.
    fn is_module_own(&self, name: &str) -> bool;
    /// A parameter that declares a member of its class at once.
    fn is_member_too(&self, _source: &Source, _b: BindingId) -> bool {
        false
    }
    /// A member that belongs to a protocol which its class takes part in.
    fn is_protocol_member(&self, _source: &Source, _class: NodeId, _name: &str) -> bool {
        false
    }
    /// How a member function is called, by its name and decorators.
    fn method_kind(&self, name: &str, decorators: &[&str]) -> MethodKind;
    /// The name that custom gives a method's object.
    fn is_receiver(&self, name: &str) -> bool;
    fn is_private(&self, name: &str) -> bool;
    /// A member that only its class uses, or is meant to be used by.
    fn hides_member(&self, source: &Source, function: NodeId) -> bool {
        source.tree.child(function, Field::Name).is_some_and(|n| self.is_private(source.str(n)))
    }
    /// A name that only means something in the function it stands in.
    fn is_frame_name(&self, name: &str) -> bool;
    /// A member that the language gives a meaning.
    fn is_special_member(&self, name: &str) -> bool;
    /// The word for a method's object, where it is no parameter.
    fn object_word(&self) -> Option<&'static str>;
    /// A member taken from its object still knows the object when it is called.
    fn members_keep_object(&self) -> bool;
    /// A name that nothing in its file binds means the same in all files.
    fn free_names_are_global(&self) -> bool;
    /// Locals are declared by a word of their own.
    fn declares_locals(&self) -> bool;
    /// Variables of a class that list its members.
    fn member_lists(&self) -> &'static [&'static str] {
        &[]
    }
}
