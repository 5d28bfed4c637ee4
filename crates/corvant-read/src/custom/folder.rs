//! Files that say what counts for their folders, where a field of a custom reader asks for it.

use super::path::{Path, Selected};
use super::{Manners, ReaderSyntax};
use crate::standards::Files;
use crate::syntax::{SyntaxError, Tree};
use foldhash::HashMap;
use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};

/// What such files say: each is read once for each path, however many files ask.
#[derive(Debug, Default)]
pub(crate) struct FolderFiles(Mutex<Known>);

#[derive(Debug, Default)]
struct Known {
    /// By file and path the text that is selected.
    said: HashMap<(String, String), Option<String>>,
    /// Files that cannot be read: their bytes, or why there are none.
    broken: BTreeMap<String, Result<Vec<u8>, String>>,
}

impl FolderFiles {
    /// The text that a path selects in a file; `None`: none, or there is no such file.
    pub(crate) fn said(&self, files: &dyn Files, at: &str, path: &Path) -> Option<String> {
        let mut known = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let key = (at.to_owned(), path.text.clone());
        if let Some(said) = known.said.get(&key) {
            return said.clone();
        }
        let bytes = files.read(at);
        let text = bytes.as_ref().and_then(|bytes| bytes.as_ref().ok());
        let said = text.map(|bytes| selected(at, bytes, path));
        let is_broken = said.as_ref().is_none_or(Result::is_err);
        if let Some(bytes) = bytes.filter(|_| is_broken) {
            known.broken.insert(at.to_owned(), bytes);
        }
        let said = said.and_then(Result::ok).flatten();
        known.said.insert(key, said.clone());
        said
    }

    /// The files that could not be read, by their paths: their bytes, or why there are none.
    pub(crate) fn broken(&self) -> BTreeMap<String, Result<Vec<u8>, String>> {
        std::mem::take(&mut self.0.lock().unwrap_or_else(PoisonError::into_inner).broken)
    }
}

/// What is wrong with the syntax of such a file.
pub(crate) fn error_in(at: &str, text: &str) -> Option<SyntaxError> {
    parsed(at, text)?.err()
}

/// A file as a tree; `None`: no syntax has its ending.
fn parsed<'text>(at: &str, text: &'text str) -> Option<Result<Tree<'text>, SyntaxError>> {
    Some(ReaderSyntax::of_ending(at)?.parse(text, None, &Manners::default()))
}

/// The text that a path selects; an error if the file cannot be read.
fn selected(at: &str, bytes: &[u8], path: &Path) -> Result<Option<String>, ()> {
    let text = std::str::from_utf8(bytes).map_err(drop)?;
    let tree = parsed(at, text).ok_or(())?.map_err(drop)?;
    let root = tree.root().map(Selected::root);
    let selected = root.into_iter().flat_map(|root| path.select(&tree, root));
    let mut plain = selected.filter(|selected| tree.is_plain(selected.node));
    Ok(plain.next().map(|selected| tree.text(selected.node).to_owned()))
}
