//! A project on disk: its files, configuration, version control, journal and checks.
#![forbid(unsafe_code)]

pub mod apply;
pub mod cache;
pub mod check;
pub mod config;
pub mod coverage;
pub mod error;
mod fault;
pub mod files;
pub mod format;
pub mod git;
pub mod history;
pub mod journal;
pub mod pipeline;
pub mod probe;
pub mod recording;
pub mod root;
pub mod state;
pub mod tree;
pub mod trust;

pub use error::{Error, Result};
