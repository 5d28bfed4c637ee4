//! Java archives (JAR File Specification): what standards that look into one share.

use super::archive::Archive;
use super::components::{self, Bundle};
use super::{One, Reading, java, provider_files};
use corvant_core::facts::{Facts, Header, ListedType, SourceKind};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_core::source::{Source, SourceIndex};
use corvant_core::wiring::Manifest;
use foldhash::{HashSet, HashSetExt};

const SERVICES: &str = "META-INF/services/";

/// A jar: which module it is, and where in it standards find what they look for.
pub(super) struct Jar {
    pub(super) listed: InJar,
    /// What the module is called: as the bundle, its descriptor or its manifest say, or like the file.
    pub(super) module: String,
    /// The descriptor of the module, where it is read.
    pub(super) descriptor: Option<Manifest>,
    /// The manifest, with what it says of a bundle.
    pub(super) bundle: Option<(Source, Bundle, Facts)>,
    /// The types in it.
    types: Facts,
}

/// What is looked for in a jar, by its numbers among the files of the archive.
#[derive(Default)]
pub(super) struct InJar {
    pub(super) providers: Vec<(usize, String)>,
    manifest: Option<usize>,
    descriptor: Option<(usize, String)>,
    /// Files that lie where component descriptions usually do.
    pub(super) descriptions: Vec<(usize, String)>,
    /// Jars in it.
    pub(super) jars: Vec<String>,
    /// Files below `META-INF/services` that are no provider-configuration files.
    others: u32,
}

/// Looks through the list of a jar's files, and reads what says which module it is.
pub(super) fn look(at: &Reading<'_>, archive: &mut Archive<'_>) -> Jar {
    let mut types = Facts::default();
    let (source, place) = (SourceIndex::default(), at.interner.intern(archive.path));
    let mut listed = list(archive, |path| {
        if let Some(name) = java::type_of_class_file(path) {
            types.types.push(ListedType { source, name: at.interner.intern(&name), place });
        }
    });
    let installed =
        |name: &str| java::installed_module(at.interner.intern(name), at.interner.intern(java::MODULES));
    // Jars in it are not looked into: their names are all that is known.
    types.installed.extend(listed.jars.iter().map(|jar| installed(&java::automatic_module(jar))));
    let text = listed.manifest.and_then(|number| archive.text(number, "META-INF/MANIFEST.MF", at));
    let headers = text.as_ref().map(|source| java::manifest_headers(&source.text)).unwrap_or_default();
    let header = |name: &str| headers.iter().find(|header| header.name.eq_ignore_ascii_case(name));
    let packages = header("Bundle-SymbolicName").map(|_| packages(archive));
    let (bundle, facts) = components::bundle(&headers, archive.path, packages, at.interner);
    let is_read = at.standards.has(provider_files::NAME);
    let descriptor = listed.descriptor.take().filter(|_| is_read).and_then(|(number, path)| {
        let bytes = archive.bytes(number, &path)?;
        archive.fenced(&path, |inner| provider_files::descriptor(at, inner, &bytes))
    });
    let descriptor = descriptor.map(|descriptor| without_packed(at, descriptor, &types));
    let automatic = header("Automatic-Module-Name").map(|header| header.value.clone());
    let described =
        descriptor.as_ref().and_then(|read| read.header.module).map(|name| at.interner.text(name.name));
    if described.is_none() {
        let name = automatic.clone().unwrap_or_else(|| java::automatic_module(archive.path));
        types.installed.push(installed(&name));
    }
    let module = bundle.name.clone().map(|(name, _)| name).or(described).or(automatic);
    let module = module.unwrap_or_else(|| archive.path.to_owned());
    Jar { listed, module, descriptor, bundle: text.map(|text| (text, bundle, facts)), types }
}

/// A descriptor without what it requires and the jar itself has, since several jars were packed into one: packages are
/// called after their modules.
fn without_packed(at: &Reading<'_>, mut descriptor: Manifest, types: &Facts) -> Manifest {
    let requirements = &mut descriptor.facts.requirements;
    let packages: Vec<String> =
        requirements.iter().map(|required| format!("{}.", at.interner.text(required.name.name))).collect();
    let mut packed = vec![false; packages.len()];
    for listed in types.types.iter().filter(|_| !packages.is_empty()) {
        let name = at.interner.text(listed.name);
        let is_in = packages.iter().map(|package| name.starts_with(package));
        packed.iter_mut().zip(is_in).for_each(|(packed, is_in)| *packed |= is_in);
    }
    let mut packed = packed.into_iter();
    requirements.retain(|_| packed.next() == Some(false));
    descriptor
}

/// The jar as a place: its types, and what of it was not looked into.
pub(super) fn itself(at: &Reading<'_>, path: &str, jar: Jar) -> One {
    let (others, jars) = (jar.listed.others, jar.listed.jars.len());
    let kind = if others == 0 { SourceKind::Container } else { SourceKind::Manifest };
    let header = Header { kind, left_over: others, ..Header::default() };
    let source = Source::new(path.to_owned(), String::new());
    let manifest = if others > 0 {
        at.manifest(source, header, jar.types, provider_files::NAME)
    } else {
        Manifest { source, header, facts: jar.types }
    };
    let mut one = One::plain(manifest);
    if jars > 0 {
        one.blind_spots.push(BlindSpot {
            kind: BlindSpotKind::NestedArchive,
            subject: path.to_owned(),
            message: format!(
                "it holds {jars} {} not looked into: what they define may be reported as missing",
                if jars == 1 { "jar that was" } else { "jars that were" }
            ),
            places: Vec::new(),
        });
    }
    one
}

/// Goes through the names of all files, once.
fn list(archive: &Archive<'_>, mut each: impl FnMut(&str)) -> InJar {
    let mut listed = InJar::default();
    for number in 0..archive.zip.len() {
        let Some(Ok(path)) = archive.zip.name_for_index(number) else { continue };
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
            listed.jars.push(path.into_owned());
        } else if components::is_usual_place(&path) {
            listed.descriptions.push((number, path.into_owned()));
        }
    }
    listed
}

/// The packages of all classes.
fn packages(archive: &Archive<'_>) -> HashSet<String> {
    let mut packages = HashSet::new();
    for number in 0..archive.zip.len() {
        if let Some(Ok(path)) = archive.zip.name_for_index(number)
            && path.ends_with(".class")
            && let Some((folder, _)) = path.rsplit_once('/')
            && !packages.contains(folder)
        {
            packages.insert(folder.to_owned());
        }
    }
    packages.into_iter().map(|package| package.replace('/', ".")).collect()
}
