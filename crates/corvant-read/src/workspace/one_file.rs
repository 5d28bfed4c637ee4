//! Reading one file: by the reader that claims it, with what is told of it.

use crate::cache::{Cache, Outlines};
use crate::custom::Around;
use crate::custom::account::{self, Unmatched};
use crate::discover::FoundFile;
use crate::fence::fenced;
use crate::files::{self, Refused, TEXT_LIMIT};
use crate::manifest;
use crate::mend::Texts;
use crate::plan::{Claim, Plan};
use crate::standards::archive::{self, Classes};
use crate::standards::{self, Claimed, Files, One, Taken};
use crate::types::{self, CodeFile, CodeRead, JarTypes, Language, Maker, Memo, Methods, Resolver};
use corvant_core::account::{Account, LeftOver};
use corvant_core::facts::{Named, SourceKind, TroubleKind};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use corvant_core::name::{Interner, Name};
use corvant_core::source::{Source, Span};
use corvant_core::wiring::Manifest;
use std::path::Path;

/// One file, or one file of an archive, as it was read.
pub(super) struct OneRead {
    pub(super) one: One,
    pub(super) account: Option<Account>,
    /// Values in which a custom reader found no reference, where that is asked.
    pub(super) unmatched: Vec<Unmatched>,
    /// What code declares, until it is known what names in it stand for.
    pub(super) code: Option<CodeFile>,
}

/// What the reading of some files has at hand.
#[derive(Clone, Copy)]
pub(super) struct Reading<'a> {
    pub(super) plan: &'a Plan,
    pub(super) interner: &'a Interner,
    pub(super) files: &'a dyn Files,
    pub(super) taken: &'a Taken,
    pub(super) explain: bool,
    /// The file whose tree is told too.
    pub(super) tree_of: Option<&'a str>,
    /// What was found in archives before.
    pub(super) cache: Option<&'a Cache>,
    /// What code declared before that is read together.
    pub(super) outlines: Option<&'a Outlines<'a>>,
    /// Texts that files have instead of what is on disk.
    pub(super) instead: Option<&'a Texts>,
    /// Whether what findings do not depend on may be left out.
    pub(super) only_findings: bool,
}

impl Reading<'_> {
    fn standard(&self) -> standards::Reading<'_> {
        let Self { plan, interner, files, taken, .. } = *self;
        standards::Reading { standards: plan.standards, interner, files, taken }
    }

    /// Reads one file. If the program fails at it, that is a finding of the file.
    pub(super) fn file(&self, found: &FoundFile) -> Vec<OneRead> {
        fenced(|| self.found(found)).unwrap_or_else(|why| self.failed(&found.relative, &why))
    }

    pub(super) fn failed(&self, path: &str, why: &str) -> Vec<OneRead> {
        let manifest = manifest::unreadable(path.to_owned(), why, TroubleKind::Unreadable);
        vec![self.with_account(One::plain(manifest), Vec::new())]
    }

    fn found(&self, FoundFile { relative, path, is_regular }: &FoundFile) -> Vec<OneRead> {
        let claim = self.plan.claim(relative);
        if Claimed::is_archive(relative) && !matches!(claim, Some(Claim::Custom(_))) {
            let opened = match claim {
                Some(Claim::Standard(claimed)) => claimed.open(&self.standard(), relative, path),
                _ => Vec::new(),
            };
            let types = self.plan.types_of(relative).map(|_| self.jar(relative, path));
            return self.plain(opened).into_iter().chain(types.into_iter().flatten()).collect();
        }
        if let (Some(Claim::Native), Some(source)) = (claim, self.other_text(relative)) {
            let manifest = manifest::from_source(source.again(), self.interner);
            return self.whole(manifest, Vec::new(), Vec::new(), self.account(relative));
        }
        let bytes = self.bytes_of(relative, path, *is_regular);
        let unreadable =
            |why: &str| One::plain(manifest::unreadable(relative.clone(), why, TroubleKind::Unreadable));
        match (bytes, claim) {
            (Ok(bytes), _) => self.bytes(relative, bytes),
            (Err(_), Some(Claim::Standard(claimed))) if !claimed.is_sure(relative) => Vec::new(),
            (Err(why), Some(Claim::Standard(claimed))) => {
                self.plain(vec![unreadable(&why).read_by(&self.standard(), claimed.first())])
            }
            (Err(why), _) => vec![self.with_account(unreadable(&why), Vec::new())],
        }
    }

    /// What a file has instead of what is on disk.
    pub(super) fn other_text(&self, path: &str) -> Option<&Source> {
        self.instead.and_then(|texts| texts.get(path))
    }

    /// What is in a file, or else why it cannot be read.
    pub(super) fn bytes_of(&self, path: &str, on_disk: &Path, is_regular: bool) -> Result<Vec<u8>, String> {
        match self.other_text(path) {
            Some(source) => Ok(source.text.clone().into_bytes()),
            None if is_regular => files::read_found(on_disk, TEXT_LIMIT).map_err(Refused::reason),
            None => Err("it is no regular file".to_owned()),
        }
    }

    pub(super) fn bytes(&self, path: &str, bytes: Vec<u8>) -> Vec<OneRead> {
        let claim = self.plan.claim(path);
        let code = match claim {
            Some(Claim::Types(language)) => Some(language),
            Some(Claim::Custom(number)) if self.plan.readers[number].is_for_types() => {
                Language::of_ending(path).filter(|&language| self.plan.readers[number].reads(language))
            }
            _ => None,
        };
        if let Some(language) = code {
            return vec![self.code(path, bytes, language)];
        }
        let mut account = self.account(path);
        let (mut parts, mut unmatched) = (Vec::new(), Vec::new());
        let manifest = match claim {
            Some(Claim::Custom(number)) if self.plan.readers[number].is_for_types() => {
                let why = if self.plan.readers[number].language.is_some() {
                    "its ending is not that of the reader's language"
                } else {
                    "its ending is that of no language whose types are known"
                };
                manifest::unreadable(path.to_owned(), why, TroubleKind::Unreadable)
            }
            Some(Claim::Custom(number)) => match manifest::source(path.to_owned(), bytes, self.interner) {
                Ok(source) => {
                    let reader = &self.plan.readers[number];
                    let around = self.around(None);
                    let read = manifest::from_custom_reader(source, reader, around, account.as_mut());
                    (parts, unmatched) = (read.parts, read.unmatched);
                    read.manifest
                }
                Err(manifest) => *manifest,
            },
            Some(Claim::Standard(claimed)) => {
                return self.plain(claimed.read(&self.standard(), path, bytes));
            }
            Some(Claim::Native | Claim::Types(_)) | None => {
                manifest::from_bytes(path.to_owned(), bytes, self.interner)
            }
        };
        self.whole(manifest, parts, unmatched, account)
    }

    fn around<'a>(&'a self, code: Option<(&'a CodeFile, Maker<'a>)>) -> Around<'a> {
        Around { interner: self.interner, files: self.files, folders: &self.plan.folders, code }
    }

    /// Code, of which is read later what names in it stand for.
    fn code(&self, path: &str, bytes: Vec<u8>, language: Language) -> OneRead {
        let how = (language, self.methods(path));
        self.code_read(types::read(path, bytes, how, self.outlines, self.interner))
    }

    /// How much of the methods in a file somebody asks for.
    fn methods(&self, path: &str) -> Methods {
        let is_taken = matches!(
            self.plan.claim(path),
            Some(Claim::Custom(number)) if self.plan.readers[number].members().methods
        );
        if self.only_findings && !is_taken { Methods::Names } else { Methods::Whole }
    }

    /// The types in a jar, and what of it could not be read.
    fn jar(&self, path: &str, on_disk: &Path) -> Vec<OneRead> {
        let (found, known) = self.cache.map(|cache| cache.look_up(on_disk)).unwrap_or_default();
        if let Some(types) = found {
            self.taken.add(types.effort);
            return vec![self.code_read(types.read(path, self.interner))];
        }
        let Classes { files, unread, are_all, effort } = archive::classes(&self.standard(), path, on_disk);
        let types = JarTypes::new(files, effort);
        if let (Some(cache), Some(known), true) = (self.cache, known, are_all) {
            cache.keep(on_disk, &known, &types);
        }
        let read = self.code_read(types.read(path, self.interner));
        self.plain(unread).into_iter().chain([read]).collect()
    }

    fn code_read(&self, read: CodeRead) -> OneRead {
        let CodeRead { mut manifest, blind_spot, file } = read;
        let module = self.plan.module_of_types(&file.path);
        manifest.header.module =
            module.map(|module| Named { name: self.interner.intern(&module), span: Span::at(0) });
        let one = One { blind_spots: blind_spot.into_iter().collect(), ..One::plain(manifest) };
        OneRead { one, account: None, unmatched: Vec::new(), code: Some(file) }
    }

    /// What code says, now that it is known what names in all code stand for.
    pub(super) fn settle_code(
        &self,
        mut read: OneRead,
        resolver: &Resolver<'_>,
        file: &CodeFile,
    ) -> Vec<OneRead> {
        let plan = self.plan;
        let maker = Maker {
            resolver,
            wires: &plan.wires,
            folders: &plan.scope_folders,
            interner: self.interner,
            memo: &Memo::default(),
            methods: if self.only_findings { Methods::Names } else { Methods::Whole },
        };
        maker.add(file, &mut read.one.manifest.facts);
        let Some(Claim::Custom(number)) = self.plan.claim(&file.path) else { return vec![read] };
        let mut account = self.account(&file.path);
        let source = read.one.manifest.source.again();
        let around = self.around(Some((file, maker)));
        let found =
            manifest::from_custom_reader(source, &self.plan.readers[number], around, account.as_mut());
        let module = &mut read.one.manifest.header.module;
        *module = module.or(found.manifest.header.module);
        let mut taken = self.whole(found.manifest, found.parts, found.unmatched, account);
        let doubt = found.doubt.map(|why| {
            let message = format!("{why}: what the reader takes from such files was not looked for in it");
            let (kind, subject) = (BlindSpotKind::DoubtfulCode, file.path.clone());
            BlindSpot { kind, subject, message, places: Vec::new() }
        });
        taken[0].one.blind_spots.extend(doubt);
        [read].into_iter().chain(taken).collect()
    }

    /// What is to be told of a file, if anything.
    fn account(&self, path: &str) -> Option<Account> {
        let tree = (self.tree_of == Some(path)).then(Vec::new);
        self.explain.then(|| Account { tree, ..Account::default() })
    }

    fn whole(
        &self,
        manifest: Manifest,
        parts: Vec<Manifest>,
        unmatched: Vec<Unmatched>,
        account: Option<Account>,
    ) -> Vec<OneRead> {
        let (left_over, tree) = account.map(|account| (account.left_over, account.tree)).unwrap_or_default();
        let facts: Vec<_> = [&manifest].into_iter().chain(&parts).map(|manifest| &manifest.facts).collect();
        let taken = account::taken(&facts);
        let mut whole = OneRead { unmatched, ..self.with_account(One::plain(manifest), left_over) };
        if let Some(account) = &mut whole.account {
            account.taken = taken;
            account.tree = tree;
        }
        let parts = parts.into_iter().map(|part| self.with_account(One::plain(part), Vec::new()));
        [whole].into_iter().chain(parts).collect()
    }

    /// What was read by others than a custom reader: nothing is left over.
    fn plain(&self, ones: Vec<One>) -> Vec<OneRead> {
        ones.into_iter().map(|one| self.with_account(one, Vec::new())).collect()
    }

    fn with_account(&self, one: One, left_over: Vec<LeftOver>) -> OneRead {
        let manifest = &one.manifest;
        let account = (self.explain && manifest.header.kind == SourceKind::Manifest).then(|| {
            let text = |name: Name| self.interner.text(name);
            let facts = &manifest.facts;
            let unreadable = facts.troubles.iter().find(|trouble| trouble.kind == TroubleKind::Unreadable);
            Account {
                path: manifest.source.path.clone(),
                reader: manifest.header.reader.map(text),
                module: manifest.header.module.map(|module| text(module.name)),
                taken: account::taken(&[facts]),
                left_over,
                lookalikes: Vec::new(),
                tree: None,
                unread: unreadable.map(|trouble| trouble.message.clone()),
            }
        });
        OneRead { one, account, unmatched: Vec::new(), code: None }
    }
}
