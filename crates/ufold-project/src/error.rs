//! What can go wrong outside the computation, and what the person can do about it.

use std::path::PathBuf;

pub type Result<T> = std::result::Result<T, Error>;

#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// The request or the configuration is wrong.
    #[error("{0}")]
    Usage(String),
    /// Nothing was written, for a reason that the person can judge.
    #[error("{0}")]
    Refused(String),
    /// A plan is refused, for these reasons.
    #[error("{message}")]
    Plan { message: String, reasons: Vec<ufold_core::change::Reason> },
    /// A step was applied, its check failed, and everything was restored.
    #[error("{message}")]
    CheckFailed { message: String, output: String },
    /// The surroundings do not allow it.
    #[error("{0}")]
    Environment(String),
    #[error("interrupted; everything is as it was before")]
    Interrupted,
}

impl Error {
    pub fn exit_code(&self) -> u8 {
        match self {
            Error::Usage(_) => 2,
            Error::Refused(_) | Error::Plan { .. } => 3,
            Error::CheckFailed { .. } => 4,
            Error::Environment(_) => 5,
            Error::Interrupted => 130,
        }
    }

    pub fn io(what: &str, path: impl Into<PathBuf>, e: &std::io::Error) -> Error {
        Error::Environment(format!("cannot {what} {}: {e}", path.into().display()))
    }
}
