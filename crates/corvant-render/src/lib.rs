//! Rendering: a report to bytes, one module an output format.
//!
//! Each format is a function from a report and the wiring it speaks of to a writer. None computes findings,
//! and none knows where its bytes go.

pub mod accounts;
pub mod answers;
pub mod drawn;
pub mod json;
pub mod rules;
pub mod schema;
pub mod text;
