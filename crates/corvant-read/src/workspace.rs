//! A whole workspace: every manifest below a folder, read on all threads.

use crate::carrier::toml;
use crate::discover::{self, Discovery};
use crate::manifest;
use crate::native::workspace_file::{self, Settings};
use crate::scope::Scope;
use corvant_core::facts::{Header, TroubleKind};
use corvant_core::finding::BlindSpot;
use corvant_core::name::{Interner, Names};
use corvant_core::source::{Position, Source};
use corvant_core::wiring::{Manifest, Policy};
use rayon::prelude::*;
use std::path::Path;

/// What was read.
#[derive(Debug)]
pub struct Workspace {
    /// Manifests, and folders that could not be looked into, in the order of their paths.
    pub manifests: Vec<Manifest>,
    /// All names in them.
    pub names: Names,
    /// What the workspace decides for all modules.
    pub policy: Policy,
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
    /// The workspace file cannot be read, so nothing can be said of the workspace.
    #[error("the workspace file cannot be used: {at}: {reason}")]
    BrokenFile {
        /// The file, with line and column where they are known.
        at: String,
        /// What is wrong with it.
        reason: String,
    },
    /// There is no manifest below it.
    #[error(
        "no manifest was found below {path}: looked for files named *.wiring.yaml, *.wiring.yml, *.wiring.json and *.wiring.toml"
    )]
    NothingFound {
        /// The folder, and what of it is looked at.
        path: String,
    },
}

/// Reads every manifest below a folder, as the workspace file in it says. Manifests that cannot be read are
/// findings later on; a broken workspace file is an error, and so is a folder without any manifest.
pub fn read(root: &Path) -> Result<Workspace, WorkspaceError> {
    let path = root.display().to_string();
    if let Err(error) = std::fs::read_dir(root) {
        return Err(WorkspaceError::NoFolder { path, reason: discover::plain_reason(&error) });
    }
    let interner = Interner::default();
    let (settings, file) = match read_settings(root)? {
        Some(text) => workspace_file(text, &interner)?,
        None => Default::default(),
    };
    let scope = Scope::new(&settings);
    let found = discover::discover(root, &scope, rayon::current_num_threads());
    if found.manifests.is_empty() && found.unreadable.is_empty() {
        let members = settings.members.map_or("", |_| " in the members that corvant.toml names");
        return Err(WorkspaceError::NothingFound { path: path + members });
    }
    let blind_spots = scope.empty_members(found.manifests.keys().map(String::as_str));
    let mut manifests = read_all(&found, &interner);
    manifests.extend(file);
    Ok(Workspace { manifests, names: interner.freeze(), policy: settings.policy, blind_spots })
}

/// A workspace out of texts in memory: pairs of path and text. One of them may be the workspace file.
pub fn from_texts<'text>(
    texts: impl IntoIterator<Item = (&'text str, &'text str)>,
) -> Result<Workspace, WorkspaceError> {
    let interner = Interner::default();
    let (file, manifests): (Vec<_>, Vec<_>) =
        texts.into_iter().partition(|(path, _)| *path == workspace_file::NAME);
    let (settings, file) = match file.first() {
        Some((_, text)) => workspace_file((*text).to_owned(), &interner)?,
        None => Default::default(),
    };
    let scope = Scope::new(&settings);
    let included: Vec<_> = manifests.into_iter().filter(|(path, _)| scope.includes(path)).collect();
    let blind_spots = scope.empty_members(included.iter().map(|(path, _)| *path));
    let manifests = included
        .into_iter()
        .map(|(path, text)| manifest::from_text(path.to_owned(), text.to_owned(), &interner))
        .chain(file)
        .collect();
    Ok(Workspace { manifests, names: interner.freeze(), policy: settings.policy, blind_spots })
}

/// The text of the workspace file, if there is one.
fn read_settings(root: &Path) -> Result<Option<String>, WorkspaceError> {
    let broken = |reason: String| WorkspaceError::BrokenFile { at: workspace_file::NAME.to_owned(), reason };
    match std::fs::read(root.join(workspace_file::NAME)) {
        Ok(bytes) => String::from_utf8(bytes).map(Some).map_err(|error| {
            broken(format!("not UTF-8 text: byte {} begins no character", error.utf8_error().valid_up_to()))
        }),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(None),
        Err(error) => Err(broken(discover::plain_reason(&error))),
    }
}

/// What a workspace file says: its settings, and its facts as a manifest of no module.
fn workspace_file(
    mut text: String,
    interner: &Interner,
) -> Result<(Settings, Option<Manifest>), WorkspaceError> {
    if text.starts_with('\u{feff}') {
        text.remove(0);
    }
    let read = toml::parse(&text).map(|tree| workspace_file::read(&tree, interner));
    let source = Source::new(workspace_file::NAME.to_owned(), text);
    match read {
        Ok((settings, facts)) => {
            let header = Header { is_no_manifest: true, ..Header::default() };
            Ok((settings, Some(Manifest { source, header, facts })))
        }
        Err(error) => {
            let Position { line, column } = source.position(error.span.start);
            let at = format!("{}:{line}:{column}", workspace_file::NAME);
            Err(WorkspaceError::BrokenFile { at, reason: error.message })
        }
    }
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
        manifest.header.is_no_manifest = true;
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
