//! The core of Corvant: facts in, findings and answers out. Nothing here touches files, terminals, clocks or output
//! formats.
//!
//! What there is to know, in the order in which it is used:
//!
//! 1. A reader makes one [`wiring::Manifest`] of each file: its [`source::Source`], and the [`facts`] in it. All names
//!    are [`name::Name`]s.
//! 2. [`wiring::link`] makes one [`wiring::Wiring`] of all of them.
//! 3. [`audit::audit`] resolves it stage by stage and runs the [`rules`] over it: an [`audit::Report`] of
//!    [`finding::Finding`]s, each with places and [`finding::Fix`]es.
//! 4. [`answers`] are what else can be asked of it: [`answers::View`] is the wiring in one stage, [`answers::look_up`]
//!    finds what a name stands for, and each question is one function.
//!
//! `corvant-read` has an example that goes all the way.

pub mod account;
pub mod answers;
pub mod audit;
pub mod compare;
pub mod facts;
pub mod finding;
mod graph;
pub mod index;
mod layered;
pub mod name;
pub mod near;
mod resolve;
pub mod rules;
pub mod source;
pub mod suppose;
mod views;
pub mod wiring;
pub mod word;
pub mod wording;
pub mod work;
