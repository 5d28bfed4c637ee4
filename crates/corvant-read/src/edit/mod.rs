//! Fixes as text: what the changes that rules propose are in bytes, in the syntax of each file.
//!
//! [`spell_out`] gives every fix its edits. A change that cannot be made as text (a name with escapes, a file of an
//! unknown syntax, a shape that was not foreseen) leaves its fix without: it stays in words. Nothing outside an edit is
//! touched, so comments and layout stay.

mod document;
mod list;
mod map;
mod value;

use crate::syntax::ManifestSyntax;
use corvant_core::facts::SourceKind;
use corvant_core::finding::{Change, Edit, Finding, Fix};
use corvant_core::source::SourceIndex;
use corvant_core::wiring::Wiring;
use document::Document;
use foldhash::HashMap;
use rayon::prelude::*;
use std::collections::BTreeMap;

/// Gives the fixes of all findings their edits. Each file is looked at once.
pub fn spell_out(findings: &mut [Finding], wiring: &Wiring) {
    let mut fixes: Vec<&mut Fix> = findings.iter_mut().flat_map(|finding| &mut finding.fixes).collect();
    spell_out_fixes(&mut fixes, wiring);
}

/// Gives fixes their edits.
pub fn spell_out_fixes(all: &mut [&mut Fix], wiring: &Wiring) {
    let mut by_source: HashMap<SourceIndex, Vec<(usize, &Change)>> = HashMap::default();
    for (number, fix) in all.iter().enumerate() {
        for change in &fix.changes {
            by_source.entry(change.source).or_default().push((number, change));
        }
    }
    let by_source: Vec<_> = by_source.into_iter().collect();
    let spelt: Vec<Vec<(usize, Option<Vec<Edit>>)>> = by_source
        .into_par_iter()
        .map(|(source, changes)| {
            let document = document(wiring, source);
            let spell = |(number, change): (usize, &Change)| {
                (number, document.as_ref().and_then(|document| document.edits(change)))
            };
            changes.into_iter().map(spell).collect()
        })
        .collect();
    let mut by_fix: HashMap<usize, Option<Vec<Edit>>> = HashMap::default();
    for (number, edits) in spelt.into_iter().flatten() {
        // Where one change cannot be made, none of the fix is.
        let known = by_fix.entry(number).or_insert_with(|| Some(Vec::new()));
        match (known.as_mut(), edits) {
            (Some(known), Some(edits)) => known.extend(edits),
            _ => *known = None,
        }
    }
    for (number, fix) in all.iter_mut().enumerate() {
        fix.spell_out(by_fix.remove(&number).flatten().and_then(in_order));
    }
}

/// A file as what edits are made in; `None`: it cannot be edited.
fn document(wiring: &Wiring, source: SourceIndex) -> Option<Document<'_>> {
    let (path, text) = (&wiring.sources[source.index()].path, &wiring.sources[source.index()].text);
    let header = &wiring.headers[source.index()];
    let syntax = match header.kind {
        // What is in an archive is not a file.
        _ if path.contains("!/") => return None,
        SourceKind::Container | SourceKind::Code => return None,
        SourceKind::WorkspaceFile => Some(ManifestSyntax::Toml),
        SourceKind::Manifest | SourceKind::Part => {
            ManifestSyntax::of_manifest(path).filter(|_| header.reader.is_none())
        }
    };
    Some(Document::new(source, text, syntax))
}

/// Edits in the order of their places, each once; `None` where two of them are at odds.
fn in_order(mut edits: Vec<Edit>) -> Option<Vec<Edit>> {
    edits.sort_by(|one, other| {
        (one.source, one.span, &one.text).cmp(&(other.source, other.span, &other.text))
    });
    edits.dedup();
    let overlaps = edits
        .windows(2)
        .any(|pair| pair[0].source == pair[1].source && pair[0].span.end > pair[1].span.start);
    (!overlaps).then_some(edits)
}

/// A text after edits, which are in order and do not overlap.
pub fn edited<'edit>(text: &str, edits: impl IntoIterator<Item = &'edit Edit>) -> String {
    let mut result = String::with_capacity(text.len());
    let mut at = 0;
    for edit in edits {
        result.push_str(&text[at..edit.span.start as usize]);
        result.push_str(&edit.text);
        at = edit.span.end as usize;
    }
    result.push_str(&text[at..]);
    result
}

/// A file, and what becomes of it.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct EditedFile {
    /// Its text.
    pub before: String,
    /// Its text after edits.
    pub after: String,
}

/// Files after edits, by their paths. Several sources may be one file. The same edit twice is one; one that begins where
/// another has not ended is left out.
pub fn edited_files<'edit>(
    wiring: &Wiring,
    edits: impl IntoIterator<Item = &'edit Edit>,
) -> BTreeMap<String, EditedFile> {
    let mut by_path: BTreeMap<&str, Vec<&Edit>> = BTreeMap::new();
    for edit in edits {
        by_path.entry(wiring.path(edit.source)).or_default().push(edit);
    }
    let of_file = |(path, mut edits): (&str, Vec<&Edit>)| {
        edits.sort_by_key(|edit| (edit.span, &edit.text));
        edits.dedup_by(|one, other| (one.span, &one.text) == (other.span, &other.text));
        let mut end = 0;
        edits.retain(|edit| {
            let is_free = edit.span.start >= end;
            end = if is_free { edit.span.end } else { end };
            is_free
        });
        let before = wiring.sources[edits[0].source.index()].text.clone();
        let after = edited(&before, edits);
        (path.to_owned(), EditedFile { before, after })
    };
    by_path.into_iter().map(of_file).collect()
}

#[cfg(test)]
mod tests;
