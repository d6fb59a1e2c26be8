//! What steps share: regions, holes and their parameters, when things are evaluated, homes, names, and the text written.

pub(crate) mod base_home;
pub(crate) mod callable;
pub(crate) mod calls;
pub(crate) mod class_home;
pub(crate) mod derived;
pub(crate) mod evaluate;
pub(crate) mod general;
pub(crate) mod home;
pub(crate) mod imports;
pub(crate) mod insertion;
pub(crate) mod leaving;
pub(crate) mod lifetime;
pub(crate) mod lines;
pub(crate) mod managers;
pub(crate) mod naming;
pub(crate) mod narrow_types;
pub(crate) mod new_name;
pub(crate) mod optional;
pub(crate) mod outside;
pub(crate) mod parameter_names;
pub(crate) mod parameters;
pub(crate) mod place;
pub(crate) mod range;
pub(crate) mod region;
pub(crate) mod render;
pub(crate) mod retire;
pub(crate) mod shape;
pub(crate) mod signature;
pub(crate) mod told;
pub(crate) mod type_holes;
pub(crate) mod types;
pub(crate) mod unneeded;
pub(crate) mod wishes;

pub use range::{HalfRange, resolve};
pub use region::locate;
pub use wishes::{Form, Results, Wishes, most_parameters};
