//! Code as custom readers see it: pieces that patterns match, as items of a tree.
//!
//! `grammar` parses a file, `pattern` is a piece of code with holes, `around` says what stands around a piece, `survey`
//! goes over a file once for all patterns, `value` says what a hole holds, `names` what types are called, `stages` when items count, and `items` writes the
//! tree. `misfits` takes out of a text what its parser cannot fit in. The crates that parse and
//! match are known to these alone.

mod around;
mod asked;
mod grammar;
mod items;
mod misfits;
mod names;
mod nested;
mod pattern;
mod stages;
mod survey;
mod value;

pub(crate) use around::plain as plain_condition;
pub(crate) use asked::{Asked, AskedItems, CodeItems, CodeNeeds, CodePlace, When};
pub(crate) use grammar::Grammar;
pub(crate) use items::{CodeTree, Order, of};
pub(crate) use misfits::without_misfits;
pub(crate) use names::{FullNames, is_called, words};
pub(crate) use nested::Nested;
pub(crate) use pattern::CodePattern;
