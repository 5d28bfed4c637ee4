//! Archives: jars and wheels, read where they lie.
//!
//! Of an archive the list of its files is read, and the few files that a standard asks for, one after another; nothing
//! is written to disk. A file that unpacks to more than it should is a finding, and the rest of the archive goes on.

use super::components::{self, Extra};
use super::entry_points::{self, Place};
use super::{
    COMPONENTS, ENTRY_POINTS, One, PROVIDER_FILES, Standard, StandardFile, directory, java, no_description,
};
use crate::fence::fenced;
use crate::files::{self, plain_reason};
use crate::manifest::{not_well_formed, source, unreadable};
use corvant_core::facts::{Facts, Header, SourceKind, TroubleKind};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_core::source::Source;
use corvant_core::wiring::Manifest;
use foldhash::{HashSet, HashSetExt};
use std::collections::BTreeSet;
use std::io::{BufReader, Read, Seek};
use std::path::Path;
use std::sync::atomic::{AtomicU64, Ordering};
use zip::ZipArchive;

/// No file that a standard asks for is larger when unpacked, in bytes.
const FILE_LIMIT: u64 = 16 << 20;
/// All files read from one archive are not larger together, in bytes.
const ARCHIVE_LIMIT: u64 = 256 << 20;
/// From a small archive, and of a small file in it, less is read: so many bytes, and so many for each packed one. Texts
/// are seldom packed to less than a twentieth.
const LEAST: u64 = 1 << 20;
const LEAST_OF_FILE: u64 = 64 << 10;
const RATIO: u64 = 64;
/// A larger archive is not looked into, in bytes.
const PACKED_LIMIT: u64 = 4 << 30;
/// Nor is one whose list of files is larger, or says that it has more of them: an entry takes 46 bytes and its name.
const LIST_LIMIT: u64 = 128 << 20;
const ENTRY_LIMIT: u64 = 1_000_000;
/// All archives of an audit: bytes unpacked, and files listed. Past that none of them counts.
const AUDIT_LIMIT: u64 = 4 << 30;
const AUDIT_ENTRIES: u64 = 20_000_000;

/// What all archives of an audit have taken so far. Whether it is too much does not depend on who came first.
#[derive(Debug, Default)]
pub(crate) struct Taken {
    bytes: AtomicU64,
    entries: AtomicU64,
}

impl Taken {
    /// What is too much, as a clause that a sentence can end with.
    pub(crate) fn too_much(&self) -> Option<String> {
        if self.bytes.load(Ordering::Relaxed) > AUDIT_LIMIT {
            return Some(format!("the archives unpack to more than {} GiB together", AUDIT_LIMIT >> 30));
        }
        let entries = self.entries.load(Ordering::Relaxed);
        (entries > AUDIT_ENTRIES)
            .then(|| format!("the archives list more than {AUDIT_ENTRIES} files together"))
    }
}

const SERVICES: &str = "META-INF/services/";

struct Archive<'a, R> {
    zip: ZipArchive<R>,
    path: &'a str,
    /// How many bytes may still be unpacked.
    left: u64,
    taken: &'a Taken,
    ones: Vec<One>,
}

/// What is looked for in a jar, by its numbers among the files of the archive.
#[derive(Default)]
struct Listed {
    providers: Vec<(usize, String)>,
    manifest: Option<usize>,
    descriptor: Option<(usize, String)>,
    jars: usize,
    /// Files below `META-INF/services` that are no provider-configuration files.
    others: u32,
}

impl Standard<'_> {
    /// Reads an archive.
    pub(crate) fn archive(&self, kind: StandardFile, path: &str, on_disk: &Path) -> Vec<One> {
        let unreadable =
            |why: &str| vec![One::plain(unreadable(path.to_owned(), why, TroubleKind::Unreadable))];
        let (mut file, size) = match files::open(on_disk) {
            Ok(open) => open,
            Err(refused) => return unreadable(&refused.reason()),
        };
        if size > PACKED_LIMIT {
            return unreadable(&format!("it is larger than {} GiB", PACKED_LIMIT >> 30));
        }
        if let Err(why) = directory::within(&mut file, size, LIST_LIMIT, ENTRY_LIMIT) {
            return unreadable(&why);
        }
        if self.taken.too_much().is_some() {
            return Vec::new();
        }
        match ZipArchive::new(BufReader::new(file)) {
            Ok(zip) => {
                self.taken.entries.fetch_add(zip.len() as u64, Ordering::Relaxed);
                let left = (LEAST + RATIO * size).min(ARCHIVE_LIMIT);
                let mut archive = Archive { zip, path, left, taken: self.taken, ones: Vec::new() };
                match kind {
                    StandardFile::Wheel => self.wheel(&mut archive),
                    _ => self.jar(&mut archive),
                }
                archive.ones
            }
            Err(error) => unreadable(&format!("it is no whole archive: {error}")),
        }
    }

    fn jar<R: Read + Seek>(&self, archive: &mut Archive<'_, R>) {
        let mut facts = Facts::default();
        let listed = archive.list(|path| {
            if let Some(name) = java::type_of_class_file(path) {
                facts.types.push(self.interner.intern(&name));
            }
        });
        let text = listed.manifest.and_then(|number| archive.text(number, "META-INF/MANIFEST.MF", self));
        let headers = text.as_ref().map(|source| java::manifest_headers(&source.text)).unwrap_or_default();
        let header = |name: &str| headers.iter().find(|header| header.name.eq_ignore_ascii_case(name));
        let packages = header("Bundle-SymbolicName").map(|_| archive.packages());
        let (bundle, bundle_facts) = components::bundle(&headers, archive.path, packages, self.interner);
        let descriptor =
            listed.descriptor.filter(|_| self.standards.reads(PROVIDER_FILES)).and_then(|(number, path)| {
                let bytes = archive.bytes(number, &path)?;
                archive.fenced(&path, |inner| self.module_descriptor(inner, &bytes))
            });
        let automatic = header("Automatic-Module-Name").map(|header| header.value.clone());
        let described =
            descriptor.as_ref().and_then(|read| read.header.module).map(|name| self.interner.text(name.name));
        let module = bundle.name.clone().map(|(name, _)| name).or(described).or(automatic);
        let module = module.unwrap_or_else(|| archive.path.to_owned());
        if self.standards.reads(PROVIDER_FILES) {
            if let Some(mut manifest) = descriptor {
                manifest.header.module = Some(self.named(&module));
                archive.ones.push(One::plain(manifest));
            }
            for (number, path) in &listed.providers {
                if let Some(source) = archive.text(*number, path, self) {
                    let read = |_: &str| One::plain(self.provider_file(source, &module, listed.jars == 0));
                    let one = archive.fenced(path, read);
                    archive.ones.extend(one);
                }
            }
        }
        if self.standards.reads(COMPONENTS) {
            self.bundle_in(archive, text, bundle, bundle_facts, &module);
        }
        self.jar_itself(archive, facts, listed.jars, listed.others);
    }

    /// The component descriptions of a bundle, and what its manifest says itself.
    fn bundle_in<R: Read + Seek>(
        &self,
        archive: &mut Archive<'_, R>,
        text: Option<Source>,
        bundle: components::Bundle,
        mut facts: Facts,
        module: &str,
    ) {
        let Some(source) = text else { return };
        if bundle.descriptions.is_empty() && facts.is_empty() && bundle.activator.is_none() {
            return;
        }
        let place = archive.path;
        let listed = bundle.listed(&mut facts);
        let mut found: BTreeSet<(usize, String)> = BTreeSet::new();
        for (path, span) in listed.paths {
            match archive.zip.index_for_name(path) {
                Some(number) => _ = found.insert((number, path.to_owned())),
                None => facts.report(no_description(path, span)),
            }
        }
        if !listed.patterns.is_empty() {
            let names = (0..archive.zip.len()).filter_map(|number| Some((number, archive.name(number)?)));
            found.extend(names.filter(|(_, name)| listed.patterns.is_match(name)));
        }
        for (number, path) in found {
            if let Some(bytes) = archive.bytes(number, &path) {
                let one = archive.fenced(&path, |inner| self.description(inner, bytes, module, place));
                archive.ones.extend(one);
            }
        }
        let header = Header { module: Some(self.named(module)), ..Header::default() };
        let manifest = self.manifest(source, header, facts, COMPONENTS);
        archive.ones.push(One { manifest, extra: Some(Extra::Bundle(bundle)), blind_spots: Vec::new() });
    }

    /// The jar as a place: its types, and what of it was not looked into.
    fn jar_itself<R>(&self, archive: &mut Archive<'_, R>, facts: Facts, jars: usize, others: u32) {
        let kind = if others == 0 { SourceKind::Container } else { SourceKind::Manifest };
        let header = Header { kind, left_over: others, ..Header::default() };
        let source = Source::new(archive.path.to_owned(), String::new());
        let manifest = if others > 0 {
            self.manifest(source, header, facts, PROVIDER_FILES)
        } else {
            Manifest { source, header, facts }
        };
        let mut one = One::plain(manifest);
        if jars > 0 {
            one.blind_spots.push(BlindSpot {
                kind: BlindSpotKind::NestedArchive,
                subject: archive.path.to_owned(),
                message: format!(
                    "it holds {jars} jars that were not looked into: what they define may be reported as missing"
                ),
                places: Vec::new(),
            });
        }
        archive.ones.push(one);
    }

    fn wheel<R: Read + Seek>(&self, archive: &mut Archive<'_, R>) {
        let paths = archive.paths();
        let names = || paths.iter().map(String::as_str);
        let facts = entry_points::modules(names(), self.interner);
        let find = |file: &str| {
            paths.iter().position(|path| {
                path.strip_suffix(file)
                    .is_some_and(|folder| folder.ends_with(".dist-info/") && folder.matches('/').count() == 1)
            })
        };
        let metadata = find("METADATA").and_then(|number| archive.bytes(number, &paths[number]));
        let extras = metadata.map(|bytes| entry_points::metadata(&String::from_utf8_lossy(&bytes)).extras);
        if let Some(number) = find("entry_points.txt")
            && let Some(source) = archive.text(number, &paths[number], self)
        {
            let folder = paths[number].split('/').next().unwrap_or_default();
            let distribution = entry_points::distribution(folder);
            let place = Place {
                distribution,
                installed: archive.path,
                are_modules_listed: !entry_points::is_link(names()),
                extras,
            };
            let manifest = match entry_points::read(&source, &place, self.interner) {
                Ok((header, facts)) => self.manifest(source, header, facts, ENTRY_POINTS),
                Err(error) => not_well_formed(source, &error, self.interner),
            };
            archive.ones.push(One::plain(manifest));
        }
        let header = Header { kind: SourceKind::Container, ..Header::default() };
        let source = Source::new(archive.path.to_owned(), String::new());
        archive.ones.push(One::plain(Manifest { source, header, facts }));
    }
}

impl<R: Read + Seek> Archive<'_, R> {
    /// The path of a file in the archive, as findings name it.
    fn inner(&self, path: &str) -> String {
        format!("{}!/{path}", self.path)
    }

    fn name(&self, number: usize) -> Option<String> {
        self.zip.name_for_index(number)?.ok().map(std::borrow::Cow::into_owned)
    }

    fn paths(&self) -> Vec<String> {
        (0..self.zip.len()).map(|number| self.name(number).unwrap_or_default()).collect()
    }

    /// Goes through the names of all files, once.
    fn list(&self, mut each: impl FnMut(&str)) -> Listed {
        let mut listed = Listed::default();
        for number in 0..self.zip.len() {
            let Some(Ok(path)) = self.zip.name_for_index(number) else { continue };
            each(&path);
            if path == "META-INF/MANIFEST.MF" {
                listed.manifest = Some(number);
            } else if let Some(file) =
                path.strip_prefix(SERVICES).filter(|file| !file.is_empty() && !path.ends_with('/'))
            {
                if file.contains('/') {
                    listed.others += 1;
                } else {
                    listed.providers.push((number, path.clone().into_owned()));
                }
            } else if path == "module-info.class"
                || (path.starts_with("META-INF/versions/") && path.ends_with("/module-info.class"))
            {
                // The one for the newest version of the platform says most.
                listed.descriptor = Some((number, path.clone().into_owned()));
            } else if path.ends_with(".jar") {
                listed.jars += 1;
            }
        }
        listed
    }

    /// The packages of all classes.
    fn packages(&self) -> HashSet<String> {
        let mut packages = HashSet::new();
        for number in 0..self.zip.len() {
            if let Some(Ok(path)) = self.zip.name_for_index(number)
                && path.ends_with(".class")
                && let Some((folder, _)) = path.rsplit_once('/')
                && !packages.contains(folder)
            {
                packages.insert(folder.to_owned());
            }
        }
        packages.into_iter().map(|package| package.replace('/', ".")).collect()
    }

    /// What reading a file of the archive gives; a finding is noted if the program fails at it.
    fn fenced<T>(&mut self, path: &str, read: impl FnOnce(&str) -> T) -> Option<T> {
        let inner = self.inner(path);
        match fenced(|| read(&inner)) {
            Ok(read) => Some(read),
            Err(why) => {
                self.ones.push(One::plain(unreadable(inner, &why, TroubleKind::Unreadable)));
                None
            }
        }
    }

    /// The bytes of a file; a finding is noted if there are too many, or they cannot be unpacked.
    fn bytes(&mut self, number: usize, path: &str) -> Option<Vec<u8>> {
        if self.taken.too_much().is_some() {
            return None;
        }
        let mut limit = FILE_LIMIT.min(self.left);
        let mut bytes = Vec::new();
        let read = match self.zip.by_index(number) {
            Ok(file) => {
                limit = limit.min(LEAST_OF_FILE.saturating_add(RATIO.saturating_mul(file.compressed_size())));
                file.take(limit + 1).read_to_end(&mut bytes).map_err(|error| plain_reason(&error))
            }
            Err(error) => Err(error.to_string()),
        };
        self.taken.bytes.fetch_add(bytes.len() as u64, Ordering::Relaxed);
        let why = match read {
            Ok(_) if bytes.len() as u64 <= limit => {
                self.left -= bytes.len() as u64;
                return Some(bytes);
            }
            Ok(_) => {
                self.left -= limit;
                let limit = if limit < 1 << 20 { (limit >> 10, "KiB") } else { (limit >> 20, "MiB") };
                format!("it unpacks to more than {} {}, which no such file does", limit.0, limit.1)
            }
            Err(why) => format!("it cannot be unpacked: {why}"),
        };
        let manifest = unreadable(self.inner(path), &why, TroubleKind::Unreadable);
        self.ones.push(One::plain(manifest));
        None
    }

    fn text(&mut self, number: usize, path: &str, standard: &Standard<'_>) -> Option<Source> {
        let bytes = self.bytes(number, path)?;
        match source(self.inner(path), bytes, standard.interner) {
            Ok(source) => Some(source),
            Err(manifest) => {
                self.ones.push(One::plain(*manifest));
                None
            }
        }
    }
}
