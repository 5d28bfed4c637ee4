//! INI: sections of `key = value` lines. There is no standard; this is what most files have in common.
//!
//! The root is a map of sections, and of the pairs before the first of them; a section that comes up again goes
//! on. Lines that begin with `;` or `#` are comments. A line without `=` is a key with nothing. An indented line
//! goes on with the value above it, in which line breaks then stand. Values are texts.

use super::lines::{Line, lines};
use super::{NodeKind, SyntaxError, Tree};
use corvant_core::source::{Span, cut};
use foldhash::{HashMap, HashMapExt};

struct Pair {
    key: Span,
    value: Option<(Span, String)>,
}

struct Section {
    header: Option<Span>,
    pairs: Vec<Pair>,
    end: u32,
}

/// The tree of an INI text.
pub fn parse(text: &str) -> Result<Tree<'_>, SyntaxError> {
    read(text, true)
}

/// The same where indented lines are lines of their own.
pub fn parse_flat(text: &str) -> Result<Tree<'_>, SyntaxError> {
    read(text, false)
}

fn read(text: &str, goes_on: bool) -> Result<Tree<'_>, SyntaxError> {
    let mut sections = vec![Section { header: None, pairs: Vec::new(), end: 0 }];
    let mut known: HashMap<&str, usize> = HashMap::new();
    let mut at = 0;
    let mut may_go_on = false;
    for line in lines(text) {
        if line.text.starts_with([';', '#']) {
            continue;
        }
        let end = line.span.end;
        if may_go_on && line.is_indented() {
            let last = sections[at].pairs.last_mut().expect("a line goes on with a pair");
            let (span, value) = last.value.get_or_insert((Span::at(line.span.start as usize), String::new()));
            if !value.is_empty() {
                value.push('\n');
            }
            value.push_str(line.text);
            span.end = end;
        } else if let Some(name) = line.text.strip_prefix('[') {
            let Some(name) = name.strip_suffix(']') else {
                return Err(SyntaxError::malformed(
                    "INI",
                    "a section's name does not end with `]`",
                    line.span,
                ));
            };
            at = *known.entry(name).or_insert(sections.len());
            if at == sections.len() {
                let header = Span::new(line.span.start as usize + 1, end as usize - 1);
                sections.push(Section { header: Some(header), pairs: Vec::new(), end });
            }
            may_go_on = false;
        } else {
            sections[at].pairs.push(pair(&line));
            may_go_on = goes_on;
        }
        sections[at].end = sections[at].end.max(end);
    }
    Ok(tree(text, &sections))
}

fn pair(line: &Line<'_>) -> Pair {
    let start = line.span.start as usize;
    // Some houses write a colon.
    match line.text.split_once('=').or_else(|| line.text.split_once(": ")) {
        Some((key, value)) => {
            let key = Span::new(start, start + key.trim_end().len());
            let end = start + line.text.len();
            let value = value.trim_start();
            Pair { key, value: Some((Span::new(end - value.len(), end), value.to_owned())) }
        }
        None => Pair { key: line.span, value: None },
    }
}

fn tree<'text>(text: &'text str, sections: &[Section]) -> Tree<'text> {
    let mut tree = Tree::new(text);
    tree.open(NodeKind::Map, Span::new(0, text.len()));
    for section in sections {
        if let Some(header) = section.header {
            tree.scalar(NodeKind::Text, header, cut(text, header));
            tree.open(NodeKind::Map, Span { start: header.start - 1, end: header.end + 1 });
        }
        for pair in &section.pairs {
            tree.scalar(NodeKind::Text, pair.key, cut(text, pair.key));
            match &pair.value {
                Some((span, value)) => tree.scalar(NodeKind::Text, *span, value),
                None => tree.scalar(NodeKind::Null, Span::at(pair.key.end as usize), ""),
            };
        }
        if section.header.is_some() {
            tree.close(section.end);
        }
    }
    tree.close(text.len() as u32);
    tree
}

#[cfg(test)]
mod tests {
    use crate::syntax::tests::{outline, places};

    #[test]
    fn sections_pairs_and_longer_values() {
        let text = "; depot\nfirst=1\n\n[depot.gate]\r\ntype = velmora.Gate ; not a comment\n\
                    needs =\n  clock\n  # no need\n  fleet\n[order]\nclock\nvelmora:Depot\n\
                    [depot.gate]\nkey=a=b\nclass: velmora.Gate\nat: 1=2\n";
        let tree = super::parse(text).unwrap();
        assert_eq!(
            outline(&tree),
            "{first: 1, depot.gate: {type: velmora.Gate ; not a comment, needs: clock\nfleet, key: a=b, \
             class: velmora.Gate, at: 1: 2}, order: {clock: ~, velmora:Depot: ~}}"
        );
        for place in
            [("depot.gate", "depot.gate"), ("velmora.Gate ; not a comment", "velmora.Gate ; not a comment")]
        {
            assert!(places(&tree).contains(&(place.0.to_owned(), place.1.to_owned())), "{:?}", places(&tree));
        }
    }

    #[test]
    fn a_section_that_does_not_end_has_a_place() {
        let error = super::parse("a=1\n [b\n").map(|_| ());
        // Indented, it goes on with the value above.
        assert!(error.is_ok());
        let error = super::parse("a=1\n[b\n").unwrap_err();
        assert_eq!((error.span.start, error.span.end), (4, 6));
    }
}
