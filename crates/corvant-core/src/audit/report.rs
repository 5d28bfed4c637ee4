//! The report: all that an audit has to say, for renderers to write down.

use crate::facts::SourceKind;
use crate::finding::{BlindSpot, Finding, Severity};
use crate::name::Name;
use crate::source::SourceIndex;
use crate::wiring::Wiring;

/// What an audit found, and what it could not see.
#[derive(Debug)]
pub struct Report {
    /// What was looked at, in numbers.
    pub summary: Summary,
    /// What is wrong: errors first, the widest reach first.
    pub findings: Vec<Finding>,
    /// What could not be seen.
    pub blind_spots: Vec<BlindSpot>,
    /// Who read the files, and what came of it: Corvant's own format first, then readers by name.
    pub readers: Vec<Coverage>,
    /// The revision that its findings were not there at; `None`: all are told.
    pub since: Option<Since>,
    /// What allowances accepted, in the same order; it is not among the findings.
    pub accepted: Vec<Accepted>,
}

/// That only findings are told which were not there before.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Since {
    /// The revision.
    pub revision: String,
    /// How many findings were there already.
    pub there_before: usize,
}

/// A finding that somebody decided to accept.
#[derive(Debug)]
pub struct Accepted {
    /// The finding.
    pub finding: Finding,
    /// The allowance that accepts it, by number in the facts.
    pub allowance: usize,
}

impl Accepted {
    /// Why it is accepted, as it is written.
    pub fn reason<'a>(&self, wiring: &'a Wiring) -> &'a str {
        wiring.facts.allowances[self.allowance].reason.map_or("", |reason| wiring.text(reason))
    }
}

/// What one reader read.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Coverage {
    /// The reader; `None`: Corvant's own format.
    pub reader: Option<Name>,
    /// How many files it took.
    pub files: usize,
    /// How many facts it took from them.
    pub facts: usize,
    /// How many values it passed over.
    pub left_over: usize,
}

/// What was looked at, in numbers.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub struct Summary {
    /// Modules.
    pub modules: usize,
    /// Manifests, those that could not be read included.
    pub manifests: usize,
    /// Service definitions, aliases and templates included.
    pub services: usize,
    /// Needs of services, entries and providers, as they are written.
    pub needs: usize,
    /// Entries.
    pub entries: usize,
    /// Findings of severity error.
    pub errors: usize,
    /// Findings of severity warning.
    pub warnings: usize,
    /// Findings of severity note.
    pub notes: usize,
}

impl Summary {
    /// Counts findings by their severities.
    pub(crate) fn count_all(&mut self, findings: &[Finding]) {
        let count = |severity| findings.iter().filter(|finding| finding.severity == severity).count();
        self.errors = count(Severity::Error);
        self.warnings = count(Severity::Warning);
        self.notes = count(Severity::Note);
    }

    /// How many findings there are of a severity.
    pub fn count(&self, severity: Severity) -> usize {
        match severity {
            Severity::Error => self.errors,
            Severity::Warning => self.warnings,
            Severity::Note => self.notes,
        }
    }
}

impl Report {
    pub(super) fn new(
        wiring: &Wiring,
        findings: Vec<Finding>,
        blind_spots: Vec<BlindSpot>,
        accepted: Vec<Accepted>,
    ) -> Self {
        let sources = (0..wiring.sources.len() as u32).map(SourceIndex);
        let manifests = sources.filter(|&source| {
            wiring.headers[source.index()].kind == SourceKind::Manifest
                && wiring.dormant_module(source).is_none()
        });
        let mut summary = Summary {
            modules: wiring.modules.len(),
            manifests: manifests.count(),
            services: wiring.facts.services.len(),
            needs: wiring.needs(),
            entries: wiring.facts.entries.len(),
            ..Summary::default()
        };
        summary.count_all(&findings);
        Self { summary, findings, blind_spots, readers: coverage(wiring), since: None, accepted }
    }
}

fn coverage(wiring: &Wiring) -> Vec<Coverage> {
    let mut readers: Vec<Coverage> = Vec::new();
    let manifests = wiring.headers.iter().zip(&wiring.said).filter(|(header, _)| {
        matches!(header.kind, SourceKind::Manifest | SourceKind::Part | SourceKind::Code)
    });
    for (header, &said) in manifests {
        let number = readers.iter().position(|known| known.reader == header.reader).unwrap_or_else(|| {
            readers.push(Coverage { reader: header.reader, files: 0, facts: 0, left_over: 0 });
            readers.len() - 1
        });
        readers[number].files += usize::from(header.kind != SourceKind::Part);
        readers[number].facts += said as usize;
        readers[number].left_over += header.left_over as usize;
    }
    readers.sort_by_key(|known| known.reader.map(|reader| wiring.text(reader)));
    readers
}
