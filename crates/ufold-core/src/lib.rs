//! Unified Fold's computation: text in, findings, plans and edits out.
//!
//! Knows no file, process, clock, environment or terminal.
#![forbid(unsafe_code)]

pub mod find;
pub mod lang;
pub mod names;
pub mod text;
pub mod tree;
