//! Rendering: a report to bytes, one module an output format.
//!
//! Each format is a function from a report and the wiring it speaks of to an [`out::Out`], which lets nothing through
//! that a terminal would act on. None computes findings, and none knows where its bytes go.

pub mod accounts;
pub mod answers;
pub mod changes;
pub mod documents;
pub mod drawn;
pub mod junit;
pub mod markdown;
pub mod out;
pub mod page;
pub mod patch;
pub mod rules;
pub mod sarif;
pub mod text;
