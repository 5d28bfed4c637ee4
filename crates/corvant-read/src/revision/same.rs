//! What a revision has in common with a state that was read before, or with what lies in a folder.

use super::{Checkout, POINTER};
use crate::cache::hexadecimal;
use crate::files::{self, TEXT_LIMIT};
use crate::mend::Texts;
use crate::workspace::Workspace;
use corvant_core::source::Source;
use rayon::prelude::*;
use sha1::Sha1;
use sha2::Sha256;
use sha2::digest::Digest;
use std::collections::HashMap;
use std::path::Path;

/// Another state, that was read before.
#[derive(Clone, Copy, Debug)]
pub struct Twin<'a> {
    /// What was read of it.
    pub workspace: &'a Workspace,
    /// Where it is laid out, if it is a revision too.
    pub laid_out: Option<&'a Checkout>,
}

/// Files by their paths from the root of the workspace, and what they are stored by.
type Named<'e> = [(&'e str, &'e str)];

/// Those that are byte for byte the same in a state that was read before.
pub(super) fn in_state(named: &Named<'_>, twin: Twin<'_>) -> Texts {
    let sources = twin.workspace.manifests.iter().map(|manifest| &manifest.source);
    let known: HashMap<&str, &Source> = sources.map(|source| (source.path.as_str(), source)).collect();
    let source = |&(path, stored): &(&str, &str)| {
        let is_same = |source: &&&Source| match twin.laid_out.and_then(|laid_out| laid_out.stored.get(path)) {
            Some(known) => known == stored,
            None => is_stored_as(&source.text, stored),
        };
        let source = known.get(path).filter(is_same)?;
        Some((path.to_owned(), source.again()))
    };
    named.par_iter().filter_map(source).collect()
}

/// Those that are byte for byte the same in a folder.
pub(super) fn in_folder(named: &Named<'_>, folder: &Path) -> Texts {
    let source = |&(path, stored): &(&str, &str)| {
        let bytes = files::read(&folder.join(path), TEXT_LIMIT).ok()?;
        let text = String::from_utf8(bytes).ok().filter(|text| is_stored_as(text, stored))?;
        // One that names what is kept elsewhere is no text to be read, and texts are without byte-order marks.
        let is_plain = !text.as_bytes().starts_with(POINTER) && !text.starts_with('\u{feff}');
        is_plain.then(|| (path.to_owned(), Source::new(path.to_owned(), text)))
    };
    named.par_iter().filter_map(source).collect()
}

/// Whether the version-control program stores a text by such an id.
fn is_stored_as(text: &str, stored: &str) -> bool {
    id(text, stored.len()).is_some_and(|id| id == stored)
}

/// The id by which the version-control program stores a text, in so many digits.
fn id(text: &str, digits: usize) -> Option<String> {
    let head = format!("blob {}\0", text.len());
    match digits {
        40 => Some(hexadecimal(&Sha1::new().chain_update(head).chain_update(text).finalize())),
        64 => Some(hexadecimal(&Sha256::new().chain_update(head).chain_update(text).finalize())),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::id;
    use rstest::rstest;

    /// As `git hash-object --stdin` says, of each kind of repository.
    #[rstest]
    #[case::short(40, Some("ce013625030ba8dba906f756967f9e9ca394464a"))]
    #[case::long(64, Some("2cf8d83d9ee29543b34a87727421fdecb7e3f3a183d337639025de576db9ebb4"))]
    #[case::of_another_kind(32, None)]
    fn a_text_is_stored_by_its_hash(#[case] digits: usize, #[case] expected: Option<&str>) {
        assert_eq!(id("hello\n", digits).as_deref(), expected);
    }
}
