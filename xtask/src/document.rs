//! Tables in docs/performance.md, each between two marks.

use std::{fs, io};

const DOCUMENT: &str = "docs/performance.md";

/// Puts a table between the marks of its name.
pub(crate) fn replace(name: &str, table: &str) -> io::Result<()> {
    let text = fs::read_to_string(DOCUMENT)?;
    let text = replaced(&text, name, table)
        .ok_or_else(|| io::Error::other(format!("no place for {name} in the docs")))?;
    fs::write(DOCUMENT, text)
}

/// The text with the table in its place, if it has one.
fn replaced(text: &str, name: &str, table: &str) -> Option<String> {
    let begin = format!("<!-- {name}: made by cargo xtask bench --write -->");
    let end = format!("<!-- end of {name} -->");
    let (before, rest) = text.split_once(&begin)?;
    let (_, after) = rest.split_once(&end)?;
    Some(format!("{before}{begin}\n{table}{end}{after}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_table_goes_between_its_own_marks() {
        let mark = |name: &str| format!("<!-- {name}: made by cargo xtask bench --write -->");
        let text = format!(
            "a\n{}\nold\n<!-- end of sizes -->\nb\n{}\nkept\n<!-- end of shapes -->\n",
            mark("sizes"),
            mark("shapes")
        );
        let new = replaced(&text, "sizes", "| new |\n").expect("there is a place");
        assert_eq!(new, text.replace("old\n", "| new |\n"));
        assert_eq!(replaced(&new, "sizes", "| new |\n").as_deref(), Some(new.as_str()));
        assert_eq!(replaced(&text, "syntaxes", ""), None);
    }

    #[test]
    fn the_docs_have_a_place_for_every_table() {
        let text = fs::read_to_string("../docs/performance.md").expect("the docs are there");
        for name in ["sizes", "shapes", "syntaxes"] {
            assert!(replaced(&text, name, "").is_some(), "{name}");
        }
    }
}
