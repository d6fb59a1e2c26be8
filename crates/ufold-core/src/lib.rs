//! Unified Fold's computation: text in, findings, plans and edits out.
//!
//! Knows no file, process, clock, environment or terminal. Folders use those before them, in this order: text, tree, names,
//! types, lang, change, find, index, flow, align, audit, plan, step (see `tests/house.rs`); coverage, outcome and recordings
//! stand beside. The audit knows nothing of plan and step: it gets a claim and the edits, and asks the index.
#![forbid(unsafe_code)]

pub mod align;
pub mod audit;
pub mod change;
pub mod coverage;
pub mod find;
pub mod flow;
pub mod index;
pub mod lang;
#[cfg(test)]
mod memory;
pub mod names;
pub mod outcome;
pub mod plan;
pub mod recording;
pub mod step;
pub mod text;
pub mod tree;
pub mod types;
