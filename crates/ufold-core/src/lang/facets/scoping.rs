//! What a name means: bindings and uses, the object of a method, what is private, what is visible everywhere.

use super::Syntax;
use crate::lang::MethodKind;
use crate::names::{BindingId, Names, Source};
use crate::tree::{Field, NodeId, Role, Tree};

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
    /// Names of members that a function of a class makes by its head alone.
    fn members_made_by(&self, _source: &Source, _function: NodeId) -> Vec<NodeId> {
        Vec::new()
    }
    /// A member that only its class uses, or is meant to be used by.
    fn hides_member(&self, source: &Source, function: NodeId) -> bool {
        source.tree.child(function, Field::Name).is_some_and(|n| self.is_private(source.str(n)))
    }
    /// A member that says that only its class, or those that extend it, may use it.
    fn hides_from_others(&self, source: &Source, declaration: NodeId) -> bool {
        self.hides_member(source, declaration)
    }
    /// A declaration that says that all code may use it.
    fn is_open(&self, _source: &Source, _declaration: NodeId) -> bool {
        false
    }
    /// A member that says that the classes which extend its own may use it.
    fn is_open_below(&self, source: &Source, declaration: NodeId) -> bool {
        self.is_open(source, declaration)
    }
    /// What a class shows to those that extend it is not seen by all others of its package.
    fn hides_below(&self) -> bool {
        false
    }
    /// The mode in which code at a place is read, where there are several.
    fn mode(&self, _source: &Source, _place: NodeId) -> u8 {
        0
    }
    /// Any code may be something else in another mode, not only what writes.
    fn modes_change_all(&self) -> bool {
        false
    }
    /// A name that only means something in the function it stands in.
    fn is_frame_name(&self, name: &str) -> bool;
    /// A member that the language gives a meaning.
    fn is_special_member(&self, name: &str) -> bool;
    /// The same of a member that its class has, and not its objects.
    fn is_special_of_class(&self, name: &str) -> bool {
        self.is_special_member(name)
    }
    /// The word for a method's object, where it is no parameter.
    fn object_word(&self) -> Option<&'static str>;
    /// A member taken from its object still knows the object when it is called.
    fn members_keep_object(&self) -> bool;
    /// A name of the file that all files see without importing it.
    fn is_global(&self, _source: &Source, _b: BindingId) -> bool {
        false
    }
    /// A name that nothing in its file binds means the same in all files.
    fn free_names_are_global(&self) -> bool;
    /// A function sees a variable of its file without saying that it is the file's.
    fn functions_see(&self, _source: &Source, _b: BindingId) -> bool {
        true
    }
    /// Locals are declared by a word of their own.
    fn declares_locals(&self) -> bool;
    /// A name of a file is in sight from its declaration on, not above it.
    fn declares_before_use(&self) -> bool {
        false
    }
    /// How many locals a function, or a file, may have at once.
    fn most_locals(&self) -> usize {
        usize::MAX
    }
    /// A block may declare a name once more, which is another variable from there on.
    fn declares_again(&self) -> bool {
        false
    }
    /// The words before the name in a declaration of locals.
    fn declaring_words<'s>(&self, source: &'s Source, declaration: NodeId) -> Option<&'s str> {
        let t = &source.tree;
        t.children(declaration).find(|c| t.role(*c) == Role::Token).map(|c| source.str(c))
    }
    /// Functions may stand outside classes.
    fn has_free_functions(&self, _source: &Source) -> bool {
        true
    }
    /// A function can be put at the top level of the file.
    fn takes_functions(&self, _source: &Source) -> bool {
        true
    }
    /// A function inside another one is that function's, and sees what it sees.
    fn nests_functions(&self) -> bool {
        true
    }
    /// Custom puts functions that the code of a class needs into the class, though they may stand outside.
    fn keeps_to_class(&self) -> bool {
        false
    }
    /// A class can have functions of its own that need no object.
    fn takes_static(&self, _source: &Source, _class: NodeId) -> bool {
        true
    }
    /// What a class with type parameters has of its own is called by its name alone.
    fn generic_classes_have_names(&self) -> bool {
        true
    }
    /// A class can keep types for itself.
    fn takes_private_types(&self, _source: &Source, _class: NodeId) -> bool {
        true
    }
    /// A class that gives what it has to those that extend it, each of which extends one such class at most.
    fn hands_down(&self, _source: &Source, _class: NodeId) -> bool {
        false
    }
    /// Why a class can't have functions that only its own code sees.
    fn takes_no_private(&self, _source: &Source, _class: NodeId, _edition: u8) -> Option<&'static str> {
        None
    }
    /// Code that runs before there is an object, though it stands where others have one.
    fn is_before_object(&self, _source: &Source, _node: NodeId) -> bool {
        false
    }
    /// A member that its class's code names without an object belongs to the object, not to the class.
    fn is_of_object(&self, _source: &Source, _member: BindingId) -> bool {
        true
    }
    /// A member that is declared so that it needs no object.
    fn needs_no_object(&self, _source: &Source, _declaration: NodeId) -> bool {
        false
    }
    /// A bare name surely reaches what the names of its file say, whatever its classes inherit.
    fn is_sure(&self, _source: &Source, _name: NodeId) -> bool {
        true
    }
    /// A member that gets no other value once it has one.
    fn is_final(&self, _source: &Source, _member: BindingId) -> bool {
        false
    }
    /// A member that is no function has one and the same word where it is declared and where it is used.
    fn fields_have_one_word(&self) -> bool {
        true
    }
    /// Variables of a class that list its members.
    fn member_lists(&self) -> &'static [&'static str] {
        &[]
    }
}
