//! Tables in docs/performance.md, each between two marks.

use std::{fs, io};

const DOCUMENT: &str = "docs/performance.md";

/// Puts a table between the marks of its name.
pub(crate) fn replace(name: &str, table: &str) -> io::Result<()> {
    let (begin, end) =
        (format!("<!-- {name}: made by cargo xtask bench --write -->"), format!("<!-- end of {name} -->"));
    let text = fs::read_to_string(DOCUMENT)?;
    let lacks = || io::Error::other(format!("no place for {name} in the docs"));
    let (before, rest) = text.split_once(&begin).ok_or_else(lacks)?;
    let (_, after) = rest.split_once(&end).ok_or_else(lacks)?;
    fs::write(DOCUMENT, format!("{before}{begin}\n{table}{end}{after}"))
}
