//! A whole workspace: every manifest below a folder, read on all threads.

use crate::discover::{self, Discovery};
use crate::manifest;
use corvant_core::facts::TroubleKind;
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_core::name::{Interner, Names};
use corvant_core::wiring::Manifest;
use rayon::prelude::*;
use std::path::Path;

/// The workspace's optional settings file.
const SETTINGS_FILE: &str = "corvant.toml";

/// What was read.
#[derive(Debug)]
pub struct Workspace {
    /// Manifests, and folders that could not be looked into, in the order of their paths.
    pub manifests: Vec<Manifest>,
    /// All names in them.
    pub names: Names,
    /// What was seen and not read.
    pub blind_spots: Vec<BlindSpot>,
}

/// Why a workspace cannot be read at all.
#[derive(Debug, thiserror::Error)]
pub enum WorkspaceError {
    /// The folder is not there, or is no folder.
    #[error("{path} is not a folder that can be read: {reason}")]
    NoFolder {
        /// The folder.
        path: String,
        /// What is wrong with it.
        reason: String,
    },
    /// There is no manifest below it.
    #[error("no manifest was found below {path}: looked for files named *.wiring.yaml, *.wiring.yml, *.wiring.json and *.wiring.toml")]
    NothingFound {
        /// The folder.
        path: String,
    },
}

/// Reads every manifest below a folder. Files that cannot be read are findings later on; only a folder
/// without any manifest is an error.
pub fn read(root: &Path) -> Result<Workspace, WorkspaceError> {
    let path = root.display().to_string();
    if let Err(error) = std::fs::read_dir(root) {
        return Err(WorkspaceError::NoFolder { path, reason: discover::plain_reason(&error) });
    }
    let found = discover::discover(root, rayon::current_num_threads());
    if found.manifests.is_empty() && found.unreadable.is_empty() {
        return Err(WorkspaceError::NothingFound { path });
    }
    let interner = Interner::default();
    let manifests = read_all(&found, &interner);
    Ok(Workspace { manifests, names: interner.freeze(), blind_spots: blind_spots(root) })
}

/// A workspace out of texts in memory: pairs of path and text.
pub fn from_texts<'text>(texts: impl IntoIterator<Item = (&'text str, &'text str)>) -> Workspace {
    let interner = Interner::default();
    let manifests = texts
        .into_iter()
        .map(|(path, text)| manifest::from_text(path.to_owned(), text.to_owned(), &interner));
    let manifests = manifests.collect();
    Workspace { manifests, names: interner.freeze(), blind_spots: Vec::new() }
}

fn read_all(found: &Discovery, interner: &Interner) -> Vec<Manifest> {
    let files: Vec<(&String, &std::path::PathBuf)> = found.manifests.iter().collect();
    let mut manifests: Vec<Manifest> =
        files.par_iter().map(|(relative, path)| read_file(relative, path, interner)).collect();
    let folders = found.unreadable.iter().map(|(path, why)| (path, why.clone(), TroubleKind::Unreadable));
    let rings = found.rings.iter().map(|(path, to)| {
        (path, format!("the link leads back to {to}, which is read anyway"), TroubleKind::LinkRing)
    });
    for (path, why, kind) in folders.chain(rings) {
        let mut manifest = manifest::unreadable(path.clone(), &why, kind);
        manifest.header.is_folder = true;
        manifests.push(manifest);
    }
    manifests
}

fn read_file(relative: &str, path: &Path, interner: &Interner) -> Manifest {
    let bytes = match std::fs::metadata(path) {
        // Opening a pipe would wait for somebody to write to it.
        Ok(metadata) if !metadata.is_file() => Err("it is no regular file".to_owned()),
        Ok(_) => std::fs::read(path).map_err(|error| discover::plain_reason(&error)),
        Err(error) => Err(discover::plain_reason(&error)),
    };
    match bytes {
        Ok(bytes) => manifest::from_bytes(relative.to_owned(), bytes, interner),
        Err(why) => manifest::unreadable(relative.to_owned(), &why, TroubleKind::Unreadable),
    }
}

fn blind_spots(root: &Path) -> Vec<BlindSpot> {
    let spot = |subject: String, message: &str| BlindSpot {
        kind: BlindSpotKind::UnreadFormat,
        message: message.to_owned(),
        subject,
        places: Vec::new(),
    };
    let settings = root.join(SETTINGS_FILE).exists().then(|| {
        spot(
            SETTINGS_FILE.to_owned(),
            "this version does not read the workspace file: what it says has no effect",
        )
    });
    settings.into_iter().collect()
}
