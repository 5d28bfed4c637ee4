//! Plain lines, and records: blocks of `field: value` lines with blank lines between.

use super::{NodeKind, SyntaxError, Tree};
use corvant_core::source::{Span, cut};
use foldhash::{HashMap, HashMapExt};

/// One line that is not blank.
pub(crate) struct Line<'text> {
    /// Its text, without white space around it.
    pub(crate) text: &'text str,
    /// Where that text stands.
    pub(crate) span: Span,
    /// How many bytes of white space stand before it.
    indent: usize,
    /// Whether a blank line, or the beginning of the text, stands before it.
    after_blank: bool,
}

impl Line<'_> {
    pub(crate) fn is_indented(&self) -> bool {
        self.indent > 0
    }
}

/// The lines of a text that are not blank.
pub(crate) fn lines(text: &str) -> impl Iterator<Item = Line<'_>> {
    let mut at = 0;
    let mut after_blank = true;
    text.split_inclusive(['\n', '\r']).filter_map(move |line| {
        let start = at;
        at += line.len();
        // The second half of a line break is no blank line.
        if line == "\n" && text[..start].ends_with('\r') {
            return None;
        }
        let content = line.trim();
        if content.is_empty() {
            after_blank = true;
            return None;
        }
        let indent = line.len() - line.trim_start().len();
        let span = Span::new(start + indent, start + indent + content.len());
        Some(Line { text: content, span, indent, after_blank: std::mem::take(&mut after_blank) })
    })
}

/// The tree of plain lines: a list of texts.
pub fn parse<'text>(text: &'text str, comment: Option<&str>) -> Tree<'text> {
    let mut tree = Tree::new(text);
    tree.open(NodeKind::List, Span::new(0, text.len()));
    for line in lines(text).filter(|line| comment.is_none_or(|mark| !line.text.starts_with(mark))) {
        tree.scalar(NodeKind::Text, line.span, line.text);
    }
    tree.close(text.len() as u32);
    tree
}

/// One record: its place, and for each field the places and texts of its values.
struct Record {
    span: Span,
    fields: Vec<(Span, Vec<(Span, String)>)>,
}

/// The tree of records: a list of maps. A field that stands several times in a record is a list of texts; an
/// indented line goes on with the value above it, in which a line break then stands.
pub fn parse_records<'text>(text: &'text str, comment: Option<&str>) -> Result<Tree<'text>, SyntaxError> {
    let mut records: Vec<Record> = Vec::new();
    let mut known: HashMap<&str, usize> = HashMap::new();
    let mut last_field = 0;
    let mut begins = true;
    for line in lines(text) {
        begins |= line.after_blank;
        if comment.is_some_and(|mark| line.text.starts_with(mark)) {
            continue;
        }
        if line.is_indented() && !begins {
            // A record that has begun has a field, and a field has a value.
            if let Some(record) = records.last_mut()
                && let Some((span, value)) = record.fields[last_field].1.last_mut()
            {
                if !value.is_empty() {
                    value.push('\n');
                }
                value.push_str(line.text);
                span.end = line.span.end;
                record.span.end = line.span.end;
            }
            continue;
        }
        let Some((name, value)) = line.text.split_once(':') else {
            return Err(SyntaxError::malformed("records", "a line is no `field: value`", line.span));
        };
        if std::mem::take(&mut begins) {
            records.push(Record { span: line.span, fields: Vec::new() });
            known.clear();
        }
        let Some(record) = records.last_mut() else { continue };
        let start = line.span.start as usize;
        let key = Span::new(start, start + name.trim_end().len());
        let value = value.trim_start();
        let value =
            (Span::new(line.span.end as usize - value.len(), line.span.end as usize), value.to_owned());
        let written = |span: Span| cut(text, span);
        last_field = *known.entry(written(key)).or_insert(record.fields.len());
        if last_field == record.fields.len() {
            record.fields.push((key, Vec::new()));
        }
        record.fields[last_field].1.push(value);
        record.span.end = line.span.end;
    }
    Ok(record_tree(text, &records))
}

fn record_tree<'text>(text: &'text str, records: &[Record]) -> Tree<'text> {
    let mut tree = Tree::new(text);
    tree.open(NodeKind::List, Span::new(0, text.len()));
    for record in records {
        tree.open(NodeKind::Map, record.span);
        for (key, values) in &record.fields {
            tree.scalar(NodeKind::Text, *key, cut(text, *key));
            if let [(span, value)] = values.as_slice() {
                tree.scalar(NodeKind::Text, *span, value);
                continue;
            }
            tree.open(NodeKind::List, values[0].0);
            for (span, value) in values {
                tree.scalar(NodeKind::Text, *span, value);
            }
            tree.close(values[values.len() - 1].0.end);
        }
        tree.close(record.span.end);
    }
    tree.close(text.len() as u32);
    tree
}

#[cfg(test)]
mod tests {
    use crate::syntax::tests::{outline, places};

    #[test]
    fn lines_are_texts_without_comments() {
        let text = "# crews\nearly\r\n\r\n  late  \n# night\nnight";
        let tree = super::parse(text, Some("#"));
        assert_eq!(outline(&tree), "[early, late, night]");
        assert_eq!(places(&tree)[2].1, "late");
        assert_eq!(outline(&super::parse(text, None)), "[# crews, early, late, # night, night]");
    }

    #[test]
    fn records_have_fields_lists_and_longer_values() {
        let text = "# the depot\nId: depot.gate\nNeeds: clock\nNeeds: fleet\nAbout: opens\n and closes\n\n\n\
                    # next\nId: depot.wash\r\nType : velmora.Wash\r\n\r\nId:\n";
        let tree = super::parse_records(text, Some("#")).unwrap();
        assert_eq!(
            outline(&tree),
            "[{Id: depot.gate, Needs: [clock, fleet], About: opens\nand closes}, \
             {Id: depot.wash, Type: velmora.Wash}, {Id: }]"
        );
    }

    #[test]
    fn a_line_without_a_field_has_a_place() {
        let error = super::parse_records("Id: a\nnonsense\n", None).unwrap_err();
        assert_eq!((error.span.start, error.span.end), (6, 14));
    }
}
