//! Provider-configuration files (JAR File Specification, "Service Provider"): `META-INF/services/CONTRACT`.
//!
//! Each line names a provider of the contract that the file is called after. Other things lie in the same folder:
//! settings, lists of file endings, notes. A file is taken for a provider-configuration file if its name can be that
//! of a type and at least one of its lines is the full name of a type in a package; if it has no line at all; and, if
//! its own name has no package, only if all lines are such names. All else is left over. In a file that is taken, a
//! line that is no type name makes the loader fail, and is a finding.

use super::java::{self, is_type_name};
use super::{Archive, One, Reading, Standard, folder_above, has_ending, parts};
use crate::manifest::unreadable;
use corvant_core::facts::{Facts, Header, Many, Named, Service, Trouble, TroubleKind};
use corvant_core::name::Interner;
use corvant_core::source::{Source, Span};
use corvant_core::wiring::Manifest;
use corvant_core::wording::EditSort;
use foldhash::{HashSet, HashSetExt};

/// Its name.
pub(super) const NAME: &str = "provider-files";
/// What is read.
pub(super) const ABOUT: &str = "Provider-configuration files in folders and jars";

/// Provider-configuration files, and module descriptors that say the same.
pub(super) struct ProviderFiles;

impl Standard for ProviderFiles {
    fn name(&self) -> &'static str {
        NAME
    }

    fn claims(&self, path: &str) -> bool {
        let (folder, file) = parts(path);
        let is_services = folder == "META-INF/services" || folder.ends_with("/META-INF/services");
        is_services || file == "module-info.class" || has_ending(path, ".jar")
    }

    fn words(&self) -> &'static [(EditSort, &'static str)] {
        &[
            (EditSort::Default, "keep {} alone in its place"),
            (EditSort::Offer, "name a provider in `META-INF/services/{}`"),
        ]
    }

    fn read(&self, at: &Reading<'_>, path: &str, bytes: Vec<u8>) -> Vec<One> {
        if path.ends_with("module-info.class") {
            return vec![One::plain(descriptor(at, path, &bytes))];
        }
        let one = at.text(path, bytes).map(|source| file(at, source, &folder_above(path, 3), None));
        vec![one.map_or_else(|unread| *unread, One::plain)]
    }

    fn read_archive(&self, at: &Reading<'_>, archive: &mut Archive<'_>) {
        let Some(mut jar) = archive.jar.take() else { return };
        if let Some(mut manifest) = jar.descriptor.take() {
            manifest.header.module = Some(at.named(&jar.module));
            // What lies in jars in it is not known.
            if !jar.listed.jars.is_empty() {
                manifest.facts.requirements.clear();
            }
            archive.ones.push(One::plain(manifest));
        }
        for (number, path) in &jar.listed.providers {
            // What lies in jars in it is not listed.
            let types = jar.listed.jars.is_empty().then_some(archive.path);
            if let Some(source) = archive.text(*number, path, at) {
                let read = |_: &str| One::plain(file(at, source, &jar.module, types));
                let one = archive.fenced(path, read);
                archive.ones.extend(one);
            }
        }
        archive.jar = Some(jar);
    }
}

/// A provider-configuration file of a module; `types` is the place whose types are listed.
fn file(at: &Reading<'_>, source: Source, module: &str, types: Option<&str>) -> Manifest {
    let (mut header, facts) = read(&source, at.interner, types);
    header.module = Some(at.named(module));
    at.manifest(source, header, facts, NAME)
}

/// The descriptor of a module.
pub(super) fn descriptor(at: &Reading<'_>, path: &str, bytes: &[u8]) -> Manifest {
    match java::module_descriptor(path, bytes, at.interner) {
        Ok((source, header, mut facts)) => {
            // Classes that lie open in folders are not listed.
            let jar = path.split_once("!/").map(|(jar, _)| at.interner.intern(jar));
            for service in &mut facts.services {
                service.of_standard.type_place = jar.filter(|_| service.type_name.is_some());
            }
            at.manifest(source, header, facts, NAME)
        }
        Err(why) => unreadable(path.to_owned(), &why, TroubleKind::Unreadable),
    }
}

/// One line without its comment.
struct ProviderLine<'text> {
    text: &'text str,
    span: Span,
}

/// The facts of one file. `types` is the place that it belongs to, if all classes of that are known.
fn read(source: &Source, interner: &Interner, types: Option<&str>) -> (Header, Facts) {
    let contract = source.path.rsplit('/').next().unwrap_or(&source.path);
    let lines: Vec<ProviderLine<'_>> = lines(&source.text).collect();
    let mut header = Header::default();
    let mut facts = Facts::default();
    let is_in_package = |line: &ProviderLine<'_>| line.text.contains('.') && is_type_name(line.text);
    let has_providers = if contract.contains('.') {
        lines.iter().any(is_in_package)
    } else {
        lines.iter().all(is_in_package)
    };
    let is_ours = is_type_name(contract) && (lines.is_empty() || has_providers);
    if !is_ours {
        header.left_over = lines.len().max(1) as u32;
        return (header, facts);
    }
    let contract = Named { name: interner.intern(contract), span: Span::at(0) };
    let place = interner.intern(&source.path);
    let mut known = HashSet::new();
    for line in lines {
        if !is_type_name(line.text) {
            facts.report(no_type_name(&line));
            continue;
        }
        // The specification passes over a provider that is named again.
        if !known.insert(line.text) {
            continue;
        }
        let id = Named { name: interner.intern(line.text), span: line.span };
        let mut service = Service::new(id);
        service.type_name = Some(id);
        let start = facts.parts.named.len();
        facts.parts.named.push(contract);
        service.offers = Many::since(start, &facts.parts);
        service.of_standard.installed = Some(place);
        service.of_standard.type_place = types.map(|place| interner.intern(place));
        service.of_standard.type_reach = java::type_reach(line.text);
        facts.services.push(service);
    }
    (header, facts)
}

fn lines(text: &str) -> impl Iterator<Item = ProviderLine<'_>> {
    let mut at = 0;
    text.split_inclusive(['\n', '\r']).filter_map(move |line| {
        let start = at;
        at += line.len();
        let content = line.split('#').next().unwrap_or_default();
        let indent = content.len() - content.trim_start().len();
        let text = content.trim();
        let span = Span::new(start + indent, start + indent + text.len());
        (!text.is_empty()).then_some(ProviderLine { text, span })
    })
}

fn no_type_name(line: &ProviderLine<'_>) -> Trouble {
    let message = "each line names one class, and this is no name of a class: the loader fails at it, and with it \
                   what asks for the providers";
    let subject: String = line.text.chars().take(80).collect();
    Trouble::new(TroubleKind::WrongShape, subject, message, (line.span, "this line"))
        .advice("write the class's full name, a line each; comments begin with #")
}
