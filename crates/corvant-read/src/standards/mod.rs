//! Open standards: what is read without being custom.
//!
//! Each standard has a file of its own below this folder, which turns one file into facts. They are switched on by
//! what is found, and off by name in the workspace file. [`archive`] finds the same files inside archives.

mod activation_files;
mod archive;
pub(crate) mod components;
mod directory;
mod entry_points;
mod java;
mod provider_files;

use crate::manifest::{not_well_formed, source, unreadable};
use crate::native::format;
pub(crate) use archive::Taken;
use components::Extra;
use corvant_core::facts::{Facts, Header, Named, SourceKind, Trouble, TroubleKind};
use corvant_core::finding::BlindSpot;
use corvant_core::name::Interner;
use corvant_core::source::{Source, Span};
use corvant_core::wiring::Manifest;
use entry_points::Place;
use std::collections::BTreeMap;
use std::path::{Component, Path};

/// The names of the standards, as reports and the workspace file have them.
pub(crate) const PROVIDER_FILES: &str = "provider-files";
/// Component descriptions.
pub(crate) const COMPONENTS: &str = "components";
/// Entry points.
pub(crate) const ENTRY_POINTS: &str = "entry-points";
/// Activation files.
pub(crate) const ACTIVATION_FILES: &str = "activation-files";

/// Files that belong to a standard.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum StandardFile {
    /// A Java archive: any of its standards.
    Jar,
    /// A built distribution that is not installed.
    Wheel,
    /// A provider-configuration file in a folder.
    ProviderFile,
    /// The descriptor of a module in a folder of classes.
    ModuleDescriptor,
    /// The manifest of a bundle that lies open in a folder.
    BundleManifest,
    /// `entry_points.txt` of an installed distribution.
    EntryPoints,
    /// The metadata of an installed distribution.
    Metadata,
    /// The list of files of an installed distribution.
    Record,
    /// The metadata of a distribution that was installed in an older way: it is there, and no more is known.
    OlderMetadata,
    /// An activation file.
    ActivationFile,
}

/// The standards that are read.
#[derive(Debug, Default)]
pub(crate) struct Standards {
    off: Vec<&'static str>,
}

impl Standards {
    /// All but some, by name.
    pub(crate) fn without(off: &[&'static str]) -> Self {
        debug_assert!(off.iter().all(|name| format::STANDARDS.names().contains(name)));
        Self { off: off.to_vec() }
    }

    fn reads(&self, standard: &str) -> bool {
        !self.off.contains(&standard)
    }

    /// Which standard a file belongs to, by its path.
    pub(crate) fn kind_of(&self, path: &str) -> Option<StandardFile> {
        let (kind, standards) = kind_of(path)?;
        standards.iter().any(|standard| self.reads(standard)).then_some(kind)
    }
}

impl StandardFile {
    /// The standard that a file of this kind is mostly read for.
    pub(crate) fn standard(self) -> &'static str {
        match self {
            Self::Jar | Self::ProviderFile | Self::ModuleDescriptor => PROVIDER_FILES,
            Self::BundleManifest => COMPONENTS,
            Self::Wheel | Self::EntryPoints | Self::Metadata | Self::Record | Self::OlderMetadata => {
                ENTRY_POINTS
            }
            Self::ActivationFile => ACTIVATION_FILES,
        }
    }

    /// Whether a file that cannot be read is surely one of these. Others have names that end in `.service`.
    pub(crate) fn is_sure(self, path: &str) -> bool {
        self != Self::ActivationFile || path.split('/').any(|folder| folder == "dbus-1")
    }
}

fn kind_of(path: &str) -> Option<(StandardFile, &'static [&'static str])> {
    let (folder, file) = path.rsplit_once('/').unwrap_or(("", path));
    let above = folder.rsplit('/').next().unwrap_or(folder);
    let ending = |ending: &str| file.len() > ending.len() && file.ends_with(ending);
    if ending(".jar") {
        Some((StandardFile::Jar, &[PROVIDER_FILES, COMPONENTS]))
    } else if ending(".whl") {
        Some((StandardFile::Wheel, &[ENTRY_POINTS]))
    } else if ending(".service") {
        Some((StandardFile::ActivationFile, &[ACTIVATION_FILES]))
    } else if file == "MANIFEST.MF" && above == "META-INF" {
        Some((StandardFile::BundleManifest, &[COMPONENTS]))
    } else if file == "module-info.class" {
        Some((StandardFile::ModuleDescriptor, &[PROVIDER_FILES]))
    } else if above.ends_with(".dist-info") {
        let kind = match file {
            "entry_points.txt" => StandardFile::EntryPoints,
            "METADATA" => StandardFile::Metadata,
            "RECORD" => StandardFile::Record,
            _ => return None,
        };
        Some((kind, &[ENTRY_POINTS]))
    } else if ending(".egg-info") || (file == "PKG-INFO" && above.ends_with(".egg-info")) {
        Some((StandardFile::OlderMetadata, &[ENTRY_POINTS]))
    } else if above == "services" && (folder == "META-INF/services" || folder.ends_with("/META-INF/services"))
    {
        Some((StandardFile::ProviderFile, &[PROVIDER_FILES]))
    } else {
        None
    }
}

/// One file that was read, with what is left to be settled once all are.
pub(crate) struct One {
    pub(crate) manifest: Manifest,
    pub(crate) extra: Option<Extra>,
    pub(crate) blind_spots: Vec<BlindSpot>,
}

impl One {
    pub(crate) fn plain(manifest: Manifest) -> Self {
        Self { manifest, extra: None, blind_spots: Vec::new() }
    }
}

/// The files around one that is read.
pub(crate) trait Files: Sync {
    /// The bytes of a file; `None`: there is none; or why it cannot be read.
    fn read(&self, path: &str) -> Option<Result<Vec<u8>, String>>;
    /// The paths of the files in a folder.
    fn list(&self, folder: &str) -> Vec<String>;
}

/// What all readers for standards share.
pub(crate) struct Standard<'a> {
    pub(crate) standards: &'a Standards,
    pub(crate) interner: &'a Interner,
    pub(crate) files: &'a dyn Files,
    pub(crate) taken: &'a Taken,
}

impl Standard<'_> {
    /// Reads a file that is no archive.
    pub(crate) fn bytes(&self, kind: StandardFile, path: &str, bytes: Vec<u8>) -> Vec<One> {
        if kind == StandardFile::ModuleDescriptor {
            return vec![One::plain(self.module_descriptor(path, &bytes))];
        }
        let source = match source(path.to_owned(), bytes, self.interner) {
            Ok(source) => source,
            Err(manifest) => return vec![One::plain(*manifest)],
        };
        let one = match kind {
            StandardFile::ProviderFile => self.provider_file(source, &folder_above(path, 3), false),
            StandardFile::BundleManifest => return self.bundle_manifest(source),
            StandardFile::EntryPoints => self.entry_points(source),
            StandardFile::Metadata => self.metadata(source),
            StandardFile::Record => self.record(&source),
            StandardFile::OlderMetadata => self.older_metadata(path),
            _ => return self.activation_file(source).map(One::plain).into_iter().collect(),
        };
        vec![One::plain(one)]
    }

    fn named(&self, name: &str) -> Named {
        Named { name: self.interner.intern(name), span: Span::at(0) }
    }

    fn manifest(&self, source: Source, mut header: Header, facts: Facts, standard: &str) -> Manifest {
        header.reader = Some(self.interner.intern(standard));
        Manifest { source, header, facts }
    }

    fn provider_file(&self, source: Source, module: &str, are_types_listed: bool) -> Manifest {
        let (mut header, facts) = provider_files::read(&source, self.interner, are_types_listed);
        header.module = Some(self.named(module));
        self.manifest(source, header, facts, PROVIDER_FILES)
    }

    fn module_descriptor(&self, path: &str, bytes: &[u8]) -> Manifest {
        match java::module_descriptor(path, bytes, self.interner) {
            Ok((source, header, mut facts)) => {
                // Classes that lie open in folders are not listed.
                let is_in_archive = path.contains("!/");
                facts.services.iter_mut().for_each(|service| service.type_checked &= is_in_archive);
                self.manifest(source, header, facts, PROVIDER_FILES)
            }
            Err(why) => unreadable(path.to_owned(), &why, TroubleKind::Unreadable),
        }
    }

    fn activation_file(&self, source: Source) -> Option<Manifest> {
        match activation_files::read(&source, self.interner) {
            Ok(read) => read.map(|(header, facts)| self.manifest(source, header, facts, ACTIVATION_FILES)),
            Err(error) => Some(not_well_formed(source, &error, self.interner)),
        }
    }

    /// A bundle in a folder, with the descriptions that its manifest lists.
    fn bundle_manifest(&self, source: Source) -> Vec<One> {
        let root = folder_above(&source.path, 2);
        let below = |path: &str| if root == "." { path.to_owned() } else { format!("{root}/{path}") };
        let headers = java::manifest_headers(&source.text);
        let (bundle, facts) = components::bundle(&headers, &root, None, self.interner);
        if bundle.descriptions.is_empty() && facts.is_empty() && bundle.activator.is_none() {
            return Vec::new();
        }
        let module = bundle.name.as_ref().map_or(root.as_str(), |(name, _)| name).to_owned();
        let mut facts = facts;
        let mut read = Vec::new();
        let listed = bundle.listed(&mut facts);
        let named = listed.paths.iter().map(|&(path, span)| (path.to_owned(), Some((path, span))));
        let mut paths: BTreeMap<String, Option<(&str, Span)>> = named.collect();
        for folder in &listed.folders {
            let inside = self.files.list(&below(folder)).into_iter();
            let inside = inside.map(|path| match path.strip_prefix(&format!("{root}/")) {
                Some(inside) if root != "." => inside.to_owned(),
                _ => path,
            });
            for path in inside.filter(|path| listed.patterns.is_match(path)) {
                paths.entry(path).or_insert(None);
            }
        }
        for (inside, said) in paths {
            let path = below(&inside);
            match (self.files.read(&path), said) {
                (Some(Ok(bytes)), _) => read.push(self.description(&path, bytes, &module, &root)),
                (Some(Err(why)), _) => read.push(One::plain(unreadable(path, &why, TroubleKind::Unreadable))),
                (None, Some((said, span))) => facts.report(no_description(said, span)),
                (None, None) => {}
            }
        }
        let header = Header { module: Some(self.named(&module)), ..Header::default() };
        let manifest = self.manifest(source, header, facts, COMPONENTS);
        read.push(One { manifest, extra: Some(Extra::Bundle(bundle)), blind_spots: Vec::new() });
        read
    }

    /// A component description.
    fn description(&self, path: &str, bytes: Vec<u8>, module: &str, bundle: &str) -> One {
        let source = match source(path.to_owned(), bytes, self.interner) {
            Ok(source) => source,
            Err(manifest) => return One::plain(*manifest),
        };
        let header = Header { module: Some(self.named(module)), ..Header::default() };
        match components::description::read(&source, bundle, self.interner) {
            Ok((facts, components)) => One {
                manifest: self.manifest(source, header, facts, COMPONENTS),
                extra: Some(Extra::Components(components)),
                blind_spots: Vec::new(),
            },
            Err(error) => One::plain(not_well_formed(source, &error, self.interner)),
        }
    }

    fn entry_points(&self, source: Source) -> Manifest {
        let (folder, _) = source.path.rsplit_once('/').unwrap_or((".", ""));
        let (installed, own) = folder.rsplit_once('/').unwrap_or((".", folder));
        let beside = |file: &str| {
            let bytes = self.files.read(&format!("{folder}/{file}"))?.ok()?;
            String::from_utf8(bytes).ok()
        };
        let record = beside("RECORD");
        let is_listed = record.is_some_and(|record| !entry_points::is_link(entry_points::recorded(&record)));
        let extras = beside("METADATA").map(|text| entry_points::metadata(&text).extras);
        let distribution = entry_points::distribution(own).to_owned();
        let installed = installed.to_owned();
        let place = Place {
            distribution: &distribution,
            installed: &installed,
            are_modules_listed: is_listed,
            extras,
        };
        match entry_points::read(&source, &place, self.interner) {
            Ok((header, facts)) => self.manifest(source, header, facts, ENTRY_POINTS),
            Err(error) => not_well_formed(source, &error, self.interner),
        }
    }

    fn metadata(&self, mut source: Source) -> Manifest {
        let folder = folder_above(&source.path, 1);
        let own = folder.rsplit('/').next().unwrap_or(&folder);
        let (header, facts) =
            entry_points::read_metadata(&mut source, entry_points::distribution(own), self.interner);
        self.manifest(source, header, facts, ENTRY_POINTS)
    }

    fn record(&self, source: &Source) -> Manifest {
        let facts = entry_points::modules(entry_points::recorded(&source.text), self.interner);
        let header = Header { kind: SourceKind::Container, ..Header::default() };
        Manifest { source: Source::new(source.path.clone(), String::new()), header, facts }
    }

    fn older_metadata(&self, path: &str) -> Manifest {
        let folder = path.strip_suffix("/PKG-INFO").unwrap_or(path);
        let own = folder.rsplit('/').next().unwrap_or(folder);
        let module = entry_points::normalized(entry_points::distribution(own));
        let header = Header { module: Some(self.named(&module)), ..Header::default() };
        let source = Source::new(path.to_owned(), String::new());
        self.manifest(source, header, Facts::default(), ENTRY_POINTS)
    }
}

/// The folder some steps above a file.
fn folder_above(path: &str, steps: usize) -> String {
    let mut folder = path;
    for _ in 0..steps {
        folder = folder.rsplit_once('/').map_or("", |(folder, _)| folder);
    }
    if folder.is_empty() { ".".to_owned() } else { folder.to_owned() }
}

fn no_description(pattern: &str, span: Span) -> Trouble {
    let message =
        format!("the bundle lists the description {pattern}, which is not in it: its components never start");
    listed_wrongly(message, span).advice("put the file where it is listed, or take it off the list")
}

fn outside(pattern: &str, span: Span) -> Trouble {
    let message =
        format!("the bundle lists the description {pattern}, which lies outside of it: it is not read");
    listed_wrongly(message, span).advice("put the file into the bundle, or take it off the list")
}

fn listed_wrongly(message: String, span: Span) -> Trouble {
    Trouble::new(TroubleKind::WrongShape, "Service-Component", message, (span, "listed here"))
}

/// Whether a path that somebody else wrote leads out of where it is looked up.
pub(crate) fn leads_out(path: &str) -> bool {
    Path::new(path).components().any(|part| !matches!(part, Component::Normal(_) | Component::CurDir))
}
