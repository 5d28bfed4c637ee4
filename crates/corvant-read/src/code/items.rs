//! The tree of a file of code: its types and functions, and what patterns matched in it.

use super::around::{self, Condition, Declaration};
use super::asked::{Asked, AskedItems, CodeNeeds, CodePlace, Role, When};
use super::grammar::{Grammar, Piece};
use super::names::{is_called, outside};
use super::nested::Nested;
use super::pattern::Held;
use super::stages::Staged;
use super::survey::{Find, Survey, survey};
use super::value::{Values, span};
use crate::syntax::{NodeKind, Tree};
use crate::types::outline::TypeOutline;
use crate::types::tree::{self, Members};
use crate::types::{CodeFile, Language, Maker, TypePlace};
use corvant_core::source::Span;
use foldhash::{HashMap, HashSet};
use std::ops::Range;

/// When items happen, as far as that is not the order in which they are written.
#[derive(Default)]
pub(crate) struct Order {
    items: Nested,
    /// By item where it is called from, and then where it stands.
    happens: Vec<(u32, u32)>,
}

impl Order {
    fn new(items: &[(Range<usize>, (u32, u32))]) -> Self {
        let happens = items.iter().map(|(_, happens)| *happens).collect();
        Self { items: Nested::new(items.iter().map(|(at, _)| at.clone())), happens }
    }

    /// When what stands at a place happens.
    pub(crate) fn at(&self, place: u32) -> (u32, u32) {
        let start = place as usize;
        let item = self.items.around(&(start..start + 1)).next();
        item.map_or((place, 0), |item| self.happens[item])
    }
}

/// A file of code as custom readers see it.
pub(crate) struct CodeTree<'text> {
    pub(crate) tree: Tree<'text>,
    /// Values that are known only once the code runs.
    pub(crate) computed: HashSet<Span>,
    pub(crate) order: Order,
    /// What a reader says is a blind spot, and was not taken.
    pub(crate) blind: Vec<Span>,
    /// Where functions stand, for what else is said there.
    pub(crate) functions: Vec<Span>,
    /// Why nothing was looked for.
    pub(crate) doubt: Option<String>,
}

/// The tree of a file: `{ types, functions, … }`, with the items of each pattern under the key of their take. A file in which the
/// words of no pattern stand is not parsed.
pub(crate) fn of<'text>(
    file: &CodeFile,
    maker: Maker<'_>,
    text: &'text str,
    members: Members,
    asked: &Asked<'_>,
) -> CodeTree<'text> {
    let grammar = Grammar::of_file(&file.path, file.language).filter(|grammar| grammar.is_built_in());
    let is_wanted = asked.may_match(text);
    let parsed = grammar.filter(|_| is_wanted).map(|grammar| (grammar, grammar.parse(text, file.language)));
    let nothing = |doubt: Option<String>| {
        let survey = Survey::default();
        CodeTree { doubt, ..Writer::new(file, maker, &survey).write(text, members, asked) }
    };
    match parsed {
        Some((grammar, Ok(parsed))) => {
            let survey = survey(&parsed, grammar, asked, text);
            if survey.is_cut {
                return nothing(Some("there is more in it than is looked at".to_owned()));
            }
            Writer::new(file, maker, &survey).write(text, members, asked)
        }
        parsed => nothing(parsed.and_then(|(_, parsed)| parsed.err())),
    }
}

struct Writer<'a, 'r, 's> {
    file: &'a CodeFile,
    maker: Maker<'a>,
    survey: &'s Survey<'r>,
    values: Values<'a>,
    /// What stands for the type where there is none.
    outside: TypeOutline,
    /// By where its name stands each type and each declaration.
    types: HashMap<usize, &'a TypeOutline>,
    declared: HashMap<usize, usize>,
    /// Functions by their names and what is around them.
    functions: HashMap<(&'s str, Option<usize>), usize>,
    /// By take that says something of conditions in forms of the house, where those stand.
    conditions: HashMap<Role, Nested>,
    /// Items that do not happen where they stand.
    order: Vec<(Range<usize>, (u32, u32))>,
}

impl<'a, 'r, 's> Writer<'a, 'r, 's> {
    fn new(file: &'a CodeFile, maker: Maker<'a>, survey: &'s Survey<'r>) -> Self {
        let values = Values { language: file.language, resolver: maker.resolver, computed: Vec::new() };
        let outside = outside(file);
        let types = file.outline.types.iter().map(|one| (one.at.start, one)).collect();
        let all = || survey.declarations.iter().enumerate();
        let declared = all().map(|(number, one)| (one.name_at.start, number)).collect();
        let mut functions = HashMap::default();
        for (number, one) in all().filter(|(_, one)| !one.is_type) {
            functions.entry((one.name.as_str(), one.outer)).or_insert(number);
        }
        let conditions = survey.finds.iter().filter(|(role, _)| matches!(role, Role::Condition(_)));
        let conditions =
            conditions.map(|(&role, finds)| (role, Nested::new(finds.iter().map(Find::at)))).collect();
        let order = Vec::new();
        Self { file, maker, survey, values, outside, types, declared, functions, conditions, order }
    }

    fn write<'text>(mut self, text: &'text str, members: Members, asked: &Asked<'_>) -> CodeTree<'text> {
        let mut tree = Tree::new(text);
        tree.open(NodeKind::Map, Span::new(0, text.len()));
        let of_declarations: Vec<&CodeNeeds> = asked
            .takes
            .iter()
            .filter(|take| take.items.is_none())
            .flat_map(|take| take.needs.iter().copied())
            .collect();
        // What only patterns match needs no types beside it.
        if asked.takes.iter().any(|take| take.items.is_none()) {
            let (file, maker) = (self.file, self.maker);
            tree = tree::write(tree, file, maker, members, &mut |tree, at| {
                self.needs_of(tree, at, &of_declarations);
            });
            self.functions(&mut tree, &of_declarations);
        }
        for take in &asked.takes {
            self.items(&mut tree, take);
        }
        tree.close(text.len() as u32);
        let blind = self.blind(asked);
        let functions =
            self.survey.declarations.iter().filter(|one| !one.is_type).map(|one| to_span(&one.at)).collect();
        let computed = self.values.computed.into_iter().collect();
        let order = Order::new(&self.order);
        CodeTree { tree, computed, order, blind, functions, doubt: None }
    }

    fn key(tree: &mut Tree<'_>, key: &str, at: Span) {
        tree.scalar(NodeKind::Text, Span::at(at.start as usize), key);
    }

    fn text(tree: &mut Tree<'_>, key: &str, text: &str, at: Span) {
        Self::key(tree, key, at);
        tree.scalar(NodeKind::Text, Span::at(at.start as usize), text);
    }

    /// What is so is written; what is not so is not.
    fn flag(tree: &mut Tree<'_>, key: &str, is: bool, at: Span) {
        if is {
            Self::key(tree, key, at);
            tree.scalar(NodeKind::Boolean, Span::at(at.start as usize), "true");
        }
    }

    /// Functions and methods, with their names and needs.
    fn functions(&mut self, tree: &mut Tree<'_>, needs: &[&CodeNeeds]) {
        Self::key(tree, "functions", Span::at(0));
        tree.open(NodeKind::List, Span::at(0));
        let survey = self.survey;
        for (number, function) in survey.declarations.iter().enumerate().filter(|(_, one)| !one.is_type) {
            let at = to_span(&function.name_at);
            tree.open(NodeKind::Map, at);
            Self::key(tree, "name", at);
            tree.scalar(NodeKind::Text, at, &function.name);
            self.names(tree, Some(number), at);
            self.needs_of(tree, &function.name_at, needs);
            tree.close(at.end);
        }
        tree.close(0);
    }

    /// What is around a piece, by its names.
    fn names(&self, tree: &mut Tree<'_>, declaration: Option<usize>, at: Span) {
        let place = self.place(declaration);
        if place.inside.name != self.outside.name {
            Self::text(tree, "@class", &place.inside.name, at);
        }
        if let Some(function) = self.function(declaration) {
            Self::text(tree, "@method", &function.name, at);
            Self::text(tree, "@function", &self.full_name(&place.inside.name, &function.name), at);
        }
        Self::text(tree, "@scope", &self.outside.scope, at);
        Self::text(tree, "@file", &self.file.path, at);
    }

    fn full_name(&self, of: &str, name: &str) -> String {
        let is_module = self.file.language == Language::TypeScript && !of.contains('#');
        let separator = match self.file.language {
            Language::Php => "\\",
            _ if is_module => "#",
            _ => ".",
        };
        if of.is_empty() { name.to_owned() } else { format!("{of}{separator}{name}") }
    }

    /// The declarations around and with one, from the inside out.
    fn outward(&self, declaration: Option<usize>) -> impl Iterator<Item = &'s Declaration> {
        let all = &self.survey.declarations;
        std::iter::successors(declaration, |&at| all[at].outer).map(|at| &all[at])
    }

    /// The outermost function around it in its type: the method, where there is a type.
    fn function(&self, declaration: Option<usize>) -> Option<&'s Declaration> {
        self.outward(declaration).take_while(|one| !one.is_type).last()
    }

    /// The type around a declaration; `None`: there is none, or it is not known.
    fn type_around(&self, declaration: Option<usize>) -> Option<&'a TypeOutline> {
        let of = self.outward(declaration).find(|one| one.is_type)?;
        self.types.get(&of.name_at.start).copied()
    }

    fn place(&self, declaration: Option<usize>) -> TypePlace<'_> {
        TypePlace { file: self.file, inside: self.type_around(declaration).unwrap_or(&self.outside) }
    }

    /// When a piece happens, if it stands where it is asked for; `None`: it does not.
    fn order(&self, find: &Find<'_>, within: &CodePlace) -> Option<(u32, u32)> {
        let declaration = find.around.declaration;
        let start = find.at().start as u32;
        if let Some(wanted) = &within.class_extends
            && !self.is_one_of(declaration, wanted)
        {
            return None;
        }
        let Some(method) = &within.method else { return Some((start, 0)) };
        let mut functions = self.outward(declaration).filter(|one| !one.is_type);
        if functions.any(|one| one.name == *method) {
            return Some((start, 0));
        }
        // Another function of the same type, which that calls.
        let own = self.function(declaration)?;
        let caller = *self.functions.get(&(method.as_str(), own.outer))?;
        let caller = &self.survey.declarations[caller];
        let calls = self.survey.calls.get(&own.name)?;
        let first = calls.partition_point(|call| call.start < caller.at.start);
        let call = calls.get(first).filter(|call| call.end <= caller.at.end)?;
        Some((call.start as u32, start))
    }

    /// Whether the type around is one of another.
    fn is_one_of(&self, declaration: Option<usize>, wanted: &str) -> bool {
        let place = self.place(declaration);
        self.maker.resolver.ancestors(place).iter().any(|(name, _)| is_called(name, wanted, self.file))
    }

    /// The items of a take.
    fn items(&mut self, tree: &mut Tree<'_>, take: &AskedItems<'_>) {
        let Some(items) = take.items else { return };
        Self::key(tree, &items.key(), Span::at(0));
        tree.open(NodeKind::List, Span::at(0));
        for find in self.finds(Role::Items(items.at)) {
            let Some(order) = self.order(find, take.within) else { continue };
            let Some(staged) = self.staged(find, take.when) else { continue };
            self.item(tree, find, order, &staged, &take.needs);
        }
        tree.close(0);
    }

    /// One item: its holes, what stands around it, and its needs.
    fn item(
        &mut self,
        tree: &mut Tree<'_>,
        find: &Find<'_>,
        order: (u32, u32),
        staged: &Staged,
        needs: &[&CodeNeeds],
    ) {
        let at = span(&find.matched.piece);
        if order.1 > 0 {
            self.order.push((find.at(), order));
        }
        tree.open(NodeKind::Map, at);
        for (name, held) in &find.matched.holes {
            match held {
                Held::One(piece) => {
                    Self::key(tree, name, span(piece));
                    self.value(tree, piece, find.around.declaration);
                }
                Held::Several(pieces) => {
                    Self::key(tree, name, at);
                    tree.open(NodeKind::List, at);
                    for piece in pieces {
                        self.value(tree, piece, find.around.declaration);
                    }
                    tree.close(at.start);
                }
            }
        }
        self.names(tree, find.around.declaration, at);
        self.chain(tree, find, at);
        Self::stages(tree, staged, at);
        Self::flag(tree, "@repeated", find.around.is_repeated, at);
        for need in needs {
            let region = match &need.inside {
                Some(hole) => find.matched.held(hole).and_then(|held| whole(held)),
                None => Some(find.at()),
            };
            self.needs(tree, need, region.as_ref(), Some(find), at);
        }
        tree.close(at.end);
    }

    fn stages(tree: &mut Tree<'_>, staged: &Staged, at: Span) {
        for (key, stage) in [("@stages", &staged.stages), ("@except", &staged.except)] {
            if let Some(stage) = stage {
                Self::text(tree, key, stage, at);
            }
        }
        Self::flag(tree, "@maybe", staged.is_maybe, at);
    }

    fn value(&mut self, tree: &mut Tree<'_>, piece: &Piece<'_>, declaration: Option<usize>) {
        let inside = self.type_around(declaration).unwrap_or(&self.outside);
        let place = TypePlace { file: self.file, inside };
        self.values.write(tree, piece, place);
    }

    /// What is called on an item: `{ name: [arguments] }`.
    fn chain(&mut self, tree: &mut Tree<'_>, find: &Find<'_>, at: Span) {
        if find.around.chain.is_empty() {
            return;
        }
        Self::key(tree, "@chain", at);
        tree.open(NodeKind::Map, at);
        let mut known: HashSet<&str> = HashSet::default();
        for (name, arguments) in &find.around.chain {
            // Of what is called twice the first counts.
            if !known.insert(name) {
                continue;
            }
            Self::key(tree, name, at);
            tree.open(NodeKind::List, at);
            for argument in arguments {
                self.value(tree, argument, find.around.declaration);
            }
            tree.close(at.start);
        }
        tree.close(at.start);
    }

    /// The needs in a type or function, by where its name stands.
    fn needs_of(&mut self, tree: &mut Tree<'_>, name_at: &Range<usize>, needs: &[&CodeNeeds]) {
        let survey = self.survey;
        let of = self.declared.get(&name_at.start).map(|&number| &survey.declarations[number]);
        for need in needs {
            self.needs(tree, need, of.map(|of| &of.at), None, to_span(name_at));
        }
    }

    /// The needs of one take in a part of the file.
    fn needs(
        &mut self,
        tree: &mut Tree<'_>,
        need: &CodeNeeds,
        region: Option<&Range<usize>>,
        of: Option<&Find<'_>>,
        at: Span,
    ) {
        let all = self.finds(Role::Items(need.items.at));
        let Some(region) = region.filter(|_| !all.is_empty()) else { return };
        let from = all.partition_point(|find| find.at().start < region.start);
        let inside = all[from..].iter().take_while(|find| find.at().start < region.end);
        let is_same = |find: &Find<'_>| {
            need.same.iter().all(|(own, other)| {
                let text = |held: &Held<'_>| held.pieces().iter().map(called).collect::<Vec<_>>();
                let other = of.and_then(|of| of.matched.held(other)).map(text);
                other.is_some() && find.matched.held(own).map(text) == other
            })
        };
        let mut found: Vec<((u32, u32), &Find<'_>)> = inside
            .filter(|find| find.at().end <= region.end && is_same(find))
            .filter_map(|find| Some((self.order(find, &need.within)?, find)))
            .collect();
        found.sort_by_key(|(order, _)| *order);
        if found.is_empty() {
            return;
        }
        Self::key(tree, &need.items.key(), at);
        tree.open(NodeKind::List, at);
        for (order, find) in found {
            self.item(tree, find, order, &Staged::default(), &[]);
        }
        tree.close(at.start);
    }

    /// In which stages a piece counts; `None`: never.
    fn staged(&self, find: &Find<'_>, when: &When) -> Option<Staged> {
        let mut conditions = find.around.conditions.clone();
        let role = Role::Condition(std::ptr::from_ref(when) as usize);
        let at = find.at();
        let around = self.conditions.get(&role).into_iter().flat_map(|conditions| conditions.around(&at));
        let mut own_forms = Vec::new();
        for other in around.map(|number| &self.finds(role)[number]) {
            let held = other.matched.held("COND").and_then(whole);
            let is_in_it = |held: &Range<usize>| held.start <= at.start && at.end <= held.end;
            let Some(held) = held.filter(|held| other.at() != at && !is_in_it(held)) else { continue };
            let (text, is_not) = around::plain(&other.matched.piece.get_doc().src[held]);
            // A form of the language is known already.
            if !conditions.iter().any(|known| known.text == text) {
                own_forms.push(Condition { text, is_not });
            }
        }
        conditions.splice(0..0, own_forms);
        Staged::of(&conditions, when)
    }

    /// What the patterns for something matched.
    fn finds(&self, role: Role) -> &'s [Find<'r>] {
        self.survey.finds.get(&role).map(Vec::as_slice).unwrap_or_default()
    }

    /// What a reader says is not seen, where it was not taken.
    fn blind(&self, asked: &Asked<'_>) -> Vec<Span> {
        let roles = asked.patterns().map(|(role, _)| role).filter(|role| matches!(role, Role::Items(_)));
        let taken = Nested::new(roles.flat_map(|role| self.finds(role).iter().map(Find::at)));
        let is_taken = |at: &Range<usize>| taken.around(at).next().is_some();
        let blind = self.finds(Role::Blind).iter().map(Find::at).filter(|at| !is_taken(at));
        blind.map(|at| to_span(&at)).collect()
    }
}

/// What a piece is called: of a parameter its name, without its type.
fn called(piece: &Piece<'_>) -> String {
    let is_parameter = ["parameter", "variable_declaration"].iter().any(|word| piece.kind().contains(word));
    let name = is_parameter.then(|| {
        let named = piece.field("name").or_else(|| piece.field("pattern"));
        named.or_else(|| piece.children().find(Piece::is_named))
    });
    name.flatten().map_or_else(|| piece.text().into_owned(), |name| called(&name))
}

fn to_span(at: &Range<usize>) -> Span {
    Span::new(at.start, at.end)
}

/// Where all that a hole holds stands.
fn whole(held: &Held<'_>) -> Option<Range<usize>> {
    let pieces = held.pieces();
    Some(pieces.first()?.range().start..pieces.last()?.range().end)
}
