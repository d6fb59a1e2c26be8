//! What one site is checked with: the change, both texts, and what is learnt on the way.

use rustc_hash::FxHashMap;

use super::outside::ScopeMap;
use super::retired::OldCall;
use super::{Pair, SitePair};
use crate::change::{Change, NewFunction};
use crate::index::Project;
use crate::names::{BindingId, Source};
use crate::tree::NodeId;

pub(super) struct Check<'a> {
    pub project: &'a Project<'a>,
    pub change: &'a Change<'a>,
    pub function: &'a NewFunction,
    /// New text of the function's file.
    pub home: &'a Source,
    pub definition: NodeId,
    pub pair: &'a Pair,
    pub site: &'a SitePair,
    pub map: &'a ScopeMap,
    /// The copy is a function that goes: the call that was rewritten.
    pub old_call: Option<OldCall>,
}

/// What is learnt while the code is compared.
pub(super) struct State {
    pub forth: FxHashMap<BindingId, BindingId>,
    pub back: FxHashMap<BindingId, BindingId>,
    /// Uses of each parameter in the body.
    pub uses: Vec<Vec<NodeId>>,
    /// What stood where each parameter stands.
    pub stood: Vec<Vec<NodeId>>,
    /// Parameters that took the place of locals which the first statements made.
    pub given: Vec<usize>,
    /// Of each parameter, which argument of an old call it passes on.
    pub passed: Vec<Option<usize>>,
}

impl Check<'_> {
    pub(super) fn old(&self) -> &Source {
        &self.pair.old
    }
    pub(super) fn edited(&self) -> &Source {
        &self.pair.new
    }
}
