//! `corvant suppose`

use super::compare::{audited, tell};
use crate::cache;
use crate::cli::{CompareOptions, SupposedChanges};
use crate::exit::CommandError;
use crate::output;
use crate::patch;
use crate::progress::Shown;
use corvant_core::name::Name;
use corvant_core::near::nearest;
use corvant_core::suppose::{self, Supposed};
use corvant_read::edit;
use corvant_read::workspace::{self, Beside, Workspace};
use corvant_render::changes::{SupposedChange, Supposing};

pub(crate) fn run(changes: &SupposedChanges, options: &CompareOptions) -> Result<u8, CommandError> {
    let shown = Shown::begin(options.telling.to.screen.quiet);
    let cache = cache::folder(&options.looking.caching)?;
    // Lifetimes need not stand in any file.
    let also: Vec<String> = changes.lifetime.iter().map(|(_, lifetime)| lifetime.clone()).collect();
    let beside = Beside {
        cache: cache.as_deref(),
        progress: Some(shown.progress()),
        also: &also,
        ..Beside::default()
    };
    let workspace = workspace::read_beside(&options.root, beside)?;
    let paths = workspace.manifests.iter().map(|manifest| manifest.source.path.as_str());
    output::keep_inputs(options.telling.to.output.as_deref(), &options.root, paths)?;
    let (supposed, written) = Asked { workspace: &workspace, changes }.all()?;
    let mut other = workspace.clone();
    suppose::apply(&mut other.manifests, &supposed, &written).map_err(|number| {
        CommandError::Usage(format!("{}: there is nothing that this would change", written[number]))
    })?;
    let (before, after) = audited(workspace, other, &options.looking)?;
    let names = ("what is there", "what is supposed");
    let mut fixes = suppose::fixes(&before.wiring, &supposed);
    edit::spell_out_fixes(&mut fixes.iter_mut().flatten().collect::<Vec<_>>(), &before.wiring);
    let changes = written.into_iter().zip(fixes).map(|(asked, fix)| SupposedChange { asked, fix });
    let changes: Vec<SupposedChange> = changes.collect();
    let edits = changes.iter().filter_map(|change| change.fix.as_ref()).flat_map(|fix| &fix.edits);
    let patch = patch::text(&edit::edited_files(&before.wiring, edits));
    let supposed = Supposing { changes: &changes, patch: &patch };
    tell(&before, &after, names, supposed, &options.telling, Some(shown))
}

/// What is asked for, by name.
struct Asked<'a> {
    workspace: &'a Workspace,
    changes: &'a SupposedChanges,
}

impl Asked<'_> {
    /// All changes, and how each was asked for.
    fn all(&self) -> Result<(Vec<Supposed>, Vec<String>), CommandError> {
        let changes = self.changes;
        let (mut all, mut written) = (Vec::new(), Vec::new());
        let mut add = |change: Supposed, line: String| {
            all.push(change);
            written.push(line);
        };
        for name in &changes.remove {
            add(Supposed::Remove(self.name(name)?), format!("--remove {name}"));
        }
        for (contract, service) in &changes.choose {
            let (contract_name, key) =
                contract.split_once('#').map_or((contract.as_str(), None), |(name, key)| (name, Some(key)));
            let key = key.map(|key| self.name(key)).transpose()?;
            let change =
                Supposed::Choose { contract: self.name(contract_name)?, key, service: self.name(service)? };
            add(change, format!("--choose {contract}={service}"));
        }
        for (replaced, by) in &changes.replace {
            let change = Supposed::Replace { replaced: self.name(replaced)?, by: self.name(by)? };
            add(change, format!("--replace {replaced}={by}"));
        }
        for (service, lifetime) in &changes.lifetime {
            let change = Supposed::Lifetime { service: self.name(service)?, lifetime: self.name(lifetime)? };
            add(change, format!("--lifetime {service}={lifetime}"));
        }
        for need in &changes.lazy {
            let (holder, slot) = self.slot(need)?;
            add(Supposed::Lazy { holder, slot }, format!("--lazy {need}"));
        }
        for module in &changes.disable {
            add(Supposed::Disable(self.name(module)?), format!("--disable {module}"));
        }
        for module in &changes.enable {
            add(Supposed::Enable(self.name(module)?), format!("--enable {module}"));
        }
        if !changes.load.is_empty() {
            let load: Result<Vec<Name>, CommandError> =
                changes.load.iter().map(|name| self.name(name)).collect();
            add(Supposed::Load(load?), format!("--load {}", changes.load.join(",")));
        }
        Ok((all, written))
    }

    /// A name that is there; otherwise what was probably meant.
    fn name(&self, text: &str) -> Result<Name, CommandError> {
        let names = &self.workspace.names;
        names.find(text).ok_or_else(|| {
            let facts = self.workspace.manifests.iter().map(|manifest| &manifest.facts);
            let known: Vec<&str> = facts
                .flat_map(|facts| facts.services.iter().map(|service| service.id.name))
                .map(|name| names.text(name))
                .collect();
            let meant = nearest(&[text], &known)[0].map(|at| format!("; did you mean {}?", known[at]));
            CommandError::Usage(format!("nothing here is called {text}{}", meant.unwrap_or_default()))
        })
    }

    /// Holder and slot of `HOLDER.SLOT`: a holder's name has dots too.
    fn slot(&self, text: &str) -> Result<(Name, Name), CommandError> {
        let mut cuts = text.rmatch_indices('.');
        let both = |(at, _): (usize, &str)| {
            Some((self.workspace.names.find(&text[..at])?, self.workspace.names.find(&text[at + 1..])?))
        };
        let found = cuts.find_map(both);
        found.ok_or_else(|| CommandError::Usage(format!("no need here is called {text}: write HOLDER.SLOT")))
    }
}
