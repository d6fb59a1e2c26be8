//! What a language answers, by what it is asked about: seven small traits with sound defaults.

mod bases;
mod loops;
mod modules;
mod scoping;
mod semantics;
mod suites;
mod syntax;
mod typing;
mod writer;

pub use bases::{Bases, ConstructorParts};
pub use loops::{Gathering, GatheringText, Listed, LoopText, Loops};
pub use modules::{KeptName, Modules};
pub use scoping::Scoping;
pub use semantics::{Collections, Doing, Look, Semantics, Sort, Stored};
pub use suites::Suites;
pub use syntax::Export;
pub use syntax::Syntax;
pub use typing::{Joined, MemberOf, OwnMembers, Typing};
pub use writer::Writer;
