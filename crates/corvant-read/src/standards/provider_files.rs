//! Provider-configuration files (JAR File Specification, "Service Provider"): `META-INF/services/CONTRACT`.
//!
//! Each line names a provider of the contract that the file is called after. Other things lie in the same folder:
//! settings, lists of file endings, notes. A file is taken for a provider-configuration file if its name can be that
//! of a type and at least one of its lines is the full name of a type in a package; if it has no line at all; and, if
//! its own name has no package, only if all lines are such names. All else is left over. In a file that is taken, a
//! line that is no type name makes the loader fail, and is a finding.

use super::java::{is_of_the_platform, is_type_name};
use corvant_core::facts::{Facts, Header, Many, Named, Service, Trouble, TroubleKind};
use corvant_core::name::Interner;
use corvant_core::source::{Source, Span};
use foldhash::{HashSet, HashSetExt};

/// One line without its comment.
struct ProviderLine<'text> {
    text: &'text str,
    span: Span,
}

/// The facts of one file. `are_types_listed` says whether all classes of its place are known.
pub(crate) fn read(source: &Source, interner: &Interner, are_types_listed: bool) -> (Header, Facts) {
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
        service.installed = Some(place);
        service.type_checked = are_types_listed && !is_of_the_platform(line.text);
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
                   whoever asks for the providers";
    let subject: String = line.text.chars().take(80).collect();
    Trouble::new(TroubleKind::WrongShape, subject, message, (line.span, "this line"))
        .advice("write the class's full name, a line each; comments begin with #")
}
