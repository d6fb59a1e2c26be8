//! Types that are written in the code, or that follow from a literal.

use crate::names::Source;
use crate::tree::NodeId;

pub fn type_of(_source: &Source, _node: NodeId) -> Option<String> {
    None
}
