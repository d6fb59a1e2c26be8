//! What those languages of the family answer whose types are written.

use crate::lang::{Definitions, Joined, OwnMembers};
use crate::names::Source;
use crate::tree::NodeId;
use crate::types::Ty;

/// What a language of the family with written types knows of them.
#[derive(Clone, Copy)]
pub struct TypeRules {
    /// Of a value that is taken at a place.
    pub find: fn(&Source, NodeId, NodeId, &Definitions) -> Ty,
    /// What a type declares itself, and whether nothing without it is taken for the type.
    pub own_members: fn(&Source, NodeId) -> Option<OwnMembers>,
    /// What conditions before it have told of a variable or a member.
    pub told_before: fn(&Source, NodeId, NodeId, &Definitions) -> Option<Ty>,
    pub spell: fn(Ty, &Source, &Definitions) -> Option<String>,
    pub general: fn(Ty) -> Ty,
    pub literal: fn(&str) -> Option<Ty>,
    pub join: fn(&[Ty]) -> Option<Joined>,
    /// A value by which the compiler tells types apart that are used further on.
    pub is_test: fn(&Source, NodeId, &Definitions) -> bool,
    pub of_literals: fn(&[&str]) -> Option<String>,
    pub type_parameter: fn(&str, &[&str]) -> String,
}
