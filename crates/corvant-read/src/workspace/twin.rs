//! Two states of one workspace: what a file says that is the same in both is taken from the one that was read before.

use super::Workspace;
use super::one_file::{OneRead, Reading};
use crate::discover::{Discovery, FoundFile};
use crate::plan::Claim;
use crate::standards::One;
use corvant_core::facts::SourceKind;
use corvant_core::wiring::Manifest;
use foldhash::HashMap;
use rayon::prelude::*;

/// Takes files out of what was found that are manifests in Corvant's own format, with nothing wrong in them, and byte for
/// byte the same in a twin: nothing of what they say follows from other files. Their names are the twin's.
pub(super) fn take_same(found: &mut Discovery, reading: Reading<'_>, twin: &Workspace) -> Vec<OneRead> {
    let is_plain = |manifest: &&Manifest| {
        let header = &manifest.header;
        header.kind == SourceKind::Manifest && header.reader.is_none() && manifest.facts.troubles.is_empty()
    };
    let known = twin.manifests.iter().filter(is_plain);
    let known: HashMap<&str, &Manifest> =
        known.map(|manifest| (manifest.source.path.as_str(), manifest)).collect();
    let same = |file: FoundFile| {
        let is_own = file.is_regular && matches!(reading.plan.claim(&file.relative), Some(Claim::Native));
        let twin = known.get(file.relative.as_str()).filter(|_| is_own);
        let is_same = |twin: &&&Manifest| {
            if let Some(source) = reading.other_text(&file.relative) {
                return source.has_text_of(&twin.source);
            }
            let bytes = reading.bytes_of(&file.relative, &file.path, file.is_regular);
            bytes.is_ok_and(|bytes| bytes == twin.source.text.as_bytes())
        };
        match twin.filter(is_same) {
            Some(&twin) => Ok(OneRead {
                one: One::plain(twin.clone()),
                account: None,
                unmatched: Vec::new(),
                code: None,
            }),
            None => Err(file),
        }
    };
    let all: Vec<Result<OneRead, FoundFile>> =
        std::mem::take(&mut found.manifests).into_par_iter().map(same).collect();
    let mut shared = Vec::new();
    for one in all {
        match one {
            Ok(read) => shared.push(read),
            Err(file) => found.manifests.push(file),
        }
    }
    shared
}
