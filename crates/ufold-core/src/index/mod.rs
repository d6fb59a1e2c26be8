//! The whole project: definitions, who refers to them, what extends what, and how sure that is.
//!
//! Built on the facts of each file, which are kept between runs; files are read when something is asked of them.

pub(crate) mod again;
pub(crate) mod alone;
pub(crate) mod ancestry;
mod asked;
pub(crate) mod bases;
pub(crate) mod bound;
pub(crate) mod class_members;
pub(crate) mod class_tree;
pub(crate) mod class_values;
pub(crate) mod computed_text;
pub(crate) mod constants;
pub(crate) mod declared;
mod entity;
mod following;
pub(crate) mod frames;
pub(crate) mod globals;
pub(crate) mod inherited;
mod known_classes;
pub(crate) mod loading;
pub(crate) mod managers;
pub(crate) mod member_uses;
pub(crate) mod method;
pub(crate) mod modules;
pub(crate) mod named_arguments;
pub(crate) mod numbers;
pub(crate) mod own;
pub(crate) mod paths;
mod project;
pub(crate) mod quiet;
pub(crate) mod references;
pub(crate) mod seen;
pub(crate) mod shapes;
pub(crate) mod spaces;
pub(crate) mod target;
#[cfg(test)]
mod tests;
pub(crate) mod typed_classes;
pub(crate) mod typed_members;
pub(crate) mod unseen;
pub(crate) mod users;
pub(crate) mod words;
pub(crate) mod writes;

pub use crate::index::words::{WordSet, whole_words};
pub use entity::Entity;
pub use modules::Modules;
pub use project::{Kept, Mention, NewFile, Project, Sources};
pub(crate) use references::{Uses, is_told};
pub use target::{Target, name_at, name_of, target, value_at};
pub(crate) use unseen::{looked_up, with_word};
pub(crate) use users::takes_any_number;
