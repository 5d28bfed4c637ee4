//! Reading: files to facts.
//!
//! [`workspace::read`] reads all that a workspace is, on all threads; a file that cannot be read is a finding like any
//! other, and the rest goes on. Inside, [`discover`] finds the files, [`syntax`] turns their text into trees with
//! places, and [`native`], [`custom`] and the open standards turn trees into facts. [`edit`] is the way back: it spells
//! out what fixes change, and [`mend`] makes them.
//!
//! ```
//! use corvant_core::answers::{View, look_up, show::show};
//! use corvant_core::audit::{Options, audit};
//! use corvant_read::workspace;
//!
//! let manifest = "
//! corvant: 1
//! module: depot
//! services:
//!   depot.gate: { needs: { yard: { service: depot.yrad } } }
//!   depot.yard: {}
//! entries:
//!   open-gate: { needs: { gate: { service: depot.gate } } }
//! ";
//! let (wiring, _blind_spots) = workspace::from_texts([("depot.wiring.yaml", manifest)])?.link();
//!
//! let mut report = audit(&wiring, &Options::default());
//! corvant_read::edit::spell_out(&mut report.findings, &wiring);
//! let finding = &report.findings[0];
//! assert_eq!((finding.rule.name, finding.subject.as_str()), ("missing-service", "depot.yrad"));
//! assert_eq!(finding.fixes[0].edits[0].text, "depot.yard");
//!
//! let view = View::new(&wiring, None);
//! let gate = look_up(&wiring, "depot.gate", None).expect("it is defined");
//! assert!(!show(&view, gate, &report).facts.is_empty());
//! # Ok::<(), workspace::WorkspaceError>(())
//! ```

mod brackets;
pub mod cache;
mod code;
pub mod custom;
pub mod discover;
pub mod draft;
pub mod edit;
pub mod fence;
mod files;
pub mod manifest;
pub mod mend;
mod named;
pub mod native;
pub mod plan;
pub mod progress;
pub mod revision;
pub mod scope;
mod standards;
pub mod syntax;
mod types;
mod words;
pub mod workspace;
