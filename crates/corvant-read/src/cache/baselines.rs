//! What was found in revisions: a revision is never another, so that it is worked out once.

use super::{Cache, of_program, read};
use crate::revision::Revision;
use corvant_core::compare::{Baseline, Seen};
use corvant_core::finding::{BlindSpot, BlindSpotKind, Severity};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// What is asked of a revision.
#[derive(Debug)]
pub struct OfRevision {
    cache: Cache,
    file: PathBuf,
}

/// What was found, written down: words for what has some.
#[derive(Serialize, Deserialize)]
struct Written {
    findings: Vec<WrittenFinding>,
    blind_spots: Vec<(String, String, String)>,
    stages: BTreeSet<String>,
}

/// Fingerprint, severity and where it holds.
type WrittenFinding = (String, String, Option<BTreeSet<Option<String>>>);

impl OfRevision {
    /// What is asked, with all that says how it is answered, of a revision seen from a folder of its repository, which
    /// `Repository::prefix` names; answers are kept in a folder. `None`: nothing says which program this is.
    pub fn new(folder: &Path, revision: &Revision, prefix: &str, asked: &str) -> Option<Self> {
        let whole = of_program(&[revision.commit(), prefix, asked])?;
        let cache = Cache::new(folder);
        let file = cache.file("revision", whole.as_bytes());
        Some(Self { cache, file })
    }

    /// What was found when it was looked at before.
    pub fn baseline(&self) -> Option<Baseline> {
        let Written { findings, blind_spots, stages } = read(&self.file)?;
        let seen = |(fingerprint, severity, holds): WrittenFinding| {
            Some(Seen { fingerprint, severity: Severity::of(&severity)?, holds })
        };
        let spot = |(kind, subject, message): (String, String, String)| {
            Some(BlindSpot { kind: BlindSpotKind::of(&kind)?, subject, message, places: Vec::new() })
        };
        Some(Baseline {
            findings: findings.into_iter().map(seen).collect::<Option<_>>()?,
            blind_spots: blind_spots.into_iter().map(spot).collect::<Option<_>>()?,
            stages,
        })
    }

    /// Keeps what was found for the next time.
    pub fn keep(&self, baseline: &Baseline) {
        let seen =
            |seen: &Seen| (seen.fingerprint.clone(), seen.severity.word().to_owned(), seen.holds.clone());
        let spot =
            |spot: &BlindSpot| (spot.kind.word().to_owned(), spot.subject.clone(), spot.message.clone());
        let written = Written {
            findings: baseline.findings.iter().map(seen).collect(),
            blind_spots: baseline.blind_spots.iter().map(spot).collect(),
            stages: baseline.stages.clone(),
        };
        self.cache.write(&self.file, &written);
        self.cache.tidy();
    }
}
