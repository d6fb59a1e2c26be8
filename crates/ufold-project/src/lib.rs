//! A project on disk: its files, configuration, version control, journal and checks.
#![forbid(unsafe_code)]

pub mod apply;
pub mod check;
pub mod config;
pub mod error;
pub mod files;
pub mod git;
pub mod journal;
pub mod pipeline;
pub mod root;

pub use error::{Error, Result};
