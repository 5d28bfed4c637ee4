//! Answers: what people ask of a wiring once they know that it is sound, or where it is not.
//!
//! Each question is one module and one pure function over a [`View`], the wiring as it is in one stage. An
//! answer holds texts and places and nothing of how it is written down.

pub mod atlas;
mod failing;
pub mod find;
pub mod impact;
pub mod order;
pub mod picture;
pub mod show;
mod subject;
pub mod terms;
mod view;
pub mod why;

pub use subject::{Kind, Subject, Unknown, known_names, look_up};
pub use view::View;
