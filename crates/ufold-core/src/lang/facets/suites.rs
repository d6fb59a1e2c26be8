//! Which tests there are to run.

use crate::lang::Layout;

pub trait Suites: Sync {
    /// The command that runs the project's tests, when their layout is known.
    fn test_command(&self, layout: &dyn Layout) -> Option<String>;
}
