//! What is known of types, and how they are written.

use crate::lang::Definitions;
use crate::names::Source;
use crate::tree::{NodeId, Tree};

pub trait Typing: Sync {
    /// Parameters must have types.
    fn needs_types(&self) -> bool;
    /// The type of a value or of a local, as it would be written, where it can be found.
    fn type_of(&self, source: &Source, node: NodeId, definitions: &Definitions) -> Option<String>;
    /// A type, whole: another one can stand in its place.
    fn is_whole_type(&self, _tree: &Tree, _node: NodeId) -> bool {
        false
    }
    /// Whether objects of other making can stand for those of a class, as long as it has no private member.
    fn is_shape(&self, _source: &Source, _class: NodeId) -> bool {
        false
    }
    /// Annotation for the type of a literal.
    fn literal_type(&self, literal: &str) -> Option<&'static str>;
    /// Annotation of a function without a result.
    fn no_result_type(&self) -> &'static str;
}
