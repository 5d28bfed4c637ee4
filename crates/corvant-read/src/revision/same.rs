//! What a revision has in common with a state that was read before.

use super::Checkout;
use super::tree::{Entry, Sort};
use crate::cache::hexadecimal;
use crate::mend::Texts;
use crate::workspace::Workspace;
use rayon::prelude::*;
use sha1::Sha1;
use sha2::Sha256;
use sha2::digest::Digest;
use std::collections::HashMap;

/// Another state, that was read before.
#[derive(Clone, Copy, Debug)]
pub struct Twin<'a> {
    /// What was read of it.
    pub workspace: &'a Workspace,
    /// Where it is laid out, if it is a revision too.
    pub laid_out: Option<&'a Checkout>,
}

/// The texts that the twin has of entries, where they are byte for byte the same, by their paths from the root of the
/// workspace, which `inside` gives.
pub(super) fn texts<'e>(
    entries: &[&'e Entry],
    inside: impl Fn(&'e Entry) -> Option<&'e str> + Sync,
    twin: &Workspace,
) -> Texts {
    let sources = twin.manifests.iter().map(|manifest| &manifest.source);
    let known: HashMap<&str, &str> =
        sources.map(|source| (source.path.as_str(), source.text.as_str())).collect();
    let text = |&entry: &&'e Entry| {
        let path = inside(entry).filter(|_| entry.on_disk.to_str() == Some(entry.path.as_str()))?;
        let text = *known.get(path)?;
        let is_same = entry.sort == Sort::File
            && entry.size == text.len() as u64
            && id(text, entry.id.len()).as_ref() == Some(&entry.id);
        is_same.then(|| (path.to_owned(), text.to_owned()))
    };
    entries.par_iter().filter_map(text).collect()
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
