//! Reading: files to facts.
//!
//! [`discover`] finds manifests below a folder, [`syntax`] turns their text into trees with places, and
//! [`native`] turns trees into facts. [`workspace::read`] does all of it for a folder, on all threads.
//! A file that cannot be read is a finding like any other, and the rest goes on.

mod brackets;
pub mod custom;
pub mod discover;
pub mod edit;
pub mod fence;
mod files;
pub mod manifest;
pub mod native;
pub mod plan;
pub mod progress;
pub mod scope;
mod standards;
pub mod syntax;
mod words;
pub mod workspace;
