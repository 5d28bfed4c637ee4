//! The core of Corvant: facts in, findings out.
//!
//! Readers hand over one [`wiring::Manifest`] a file; [`wiring::link`] makes one [`wiring::Wiring`] of them;
//! [`audit::audit`] resolves it stage by stage and runs the [`rules`] over it, which ends in a
//! [`audit::Report`]. Nothing here touches files, terminals, clocks or output formats.

pub mod account;
pub mod answers;
pub mod audit;
pub mod facts;
pub mod finding;
pub mod graph;
mod layered;
pub mod name;
pub mod near;
pub mod resolve;
pub mod rules;
pub mod source;
mod views;
pub mod wiring;
pub mod word;
pub mod work;
