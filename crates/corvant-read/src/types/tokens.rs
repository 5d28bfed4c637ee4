//! Words and signs with the partners of their brackets.

use super::Language;
use super::lexer::{self, BRANCH_AGAIN, BRANCH_BEGINS, BRANCHES_END, Doubt, Token};
use std::ops::Range;

/// How far the end of type arguments is looked for.
const ARGUMENTS: usize = 200;
/// How many conditions may stand in one another, and how many brackets be open where one begins.
pub(super) const NESTED: usize = 100;
pub(super) const OPEN: usize = 1_000;

/// The words and signs of a text.
pub(super) struct Tokens<'t> {
    pub(super) text: &'t str,
    pub(super) language: Language,
    pub(super) all: Vec<Token>,
    /// By bracket the number of the one that opens or closes it; `u32::MAX`: none.
    partners: Vec<u32>,
}

impl<'t> Tokens<'t> {
    /// Those of a text, up to where it is in doubt.
    pub(super) fn new(text: &'t str, language: Language) -> (Self, Option<Doubt>) {
        let (all, doubt) = lexer::tokens(text, language);
        let partners = partners(&all);
        (Self { text, language, all, partners }, doubt)
    }

    pub(super) fn len(&self) -> usize {
        self.all.len()
    }

    /// The word at a number; a name in quotes without them.
    pub(super) fn word(&self, at: usize) -> Option<&'t str> {
        let token = self.all.get(at).filter(|token| token.is(0))?;
        let word = &self.text[token.range()];
        Some(if self.language == Language::Kotlin { word.trim_matches('`') } else { word })
    }

    pub(super) fn is_word(&self, at: usize, word: &str) -> bool {
        self.word(at) == Some(word)
    }

    pub(super) fn is_sign(&self, at: usize, sign: u8) -> bool {
        self.all.get(at).is_some_and(|token| token.is(sign))
    }

    /// Whether signs stand there, with nothing between them.
    pub(super) fn are_signs(&self, at: usize, signs: &[u8]) -> bool {
        let is_there = |(offset, &sign): (usize, &u8)| {
            self.is_sign(at + offset, sign)
                && (offset == 0 || self.all[at + offset].start == self.all[at + offset - 1].end)
        };
        signs.iter().enumerate().all(is_there)
    }

    /// The bytes of a token; of none, the end.
    pub(super) fn range(&self, at: usize) -> Range<usize> {
        self.all.get(at).map_or(self.text.len()..self.text.len(), |token| token.range())
    }

    /// The bytes of some tokens.
    pub(super) fn ranges(&self, tokens: Range<usize>) -> Range<usize> {
        if tokens.is_empty() {
            return self.range(tokens.start).start..self.range(tokens.start).start;
        }
        self.range(tokens.start).start..self.range(tokens.end - 1).end
    }

    /// Whether a token is the first of its line.
    pub(super) fn begins_line(&self, at: usize) -> bool {
        let Some(before) = at.checked_sub(1) else { return true };
        self.text[self.range(before).end..self.range(at).start].contains('\n')
    }

    /// The bracket that belongs to another.
    pub(super) fn partner(&self, at: usize) -> Option<usize> {
        self.partners.get(at).copied().filter(|&partner| partner != u32::MAX).map(|partner| partner as usize)
    }

    /// The number behind a bracket's partner, if it opens something.
    pub(super) fn behind(&self, at: usize) -> Option<usize> {
        self.partner(at).filter(|&partner| partner > at).map(|partner| partner + 1)
    }

    /// The number behind the `>` that belongs to a `<`, if type arguments are between them.
    pub(super) fn behind_arguments(&self, open: usize) -> Option<usize> {
        let (mut depth, mut at) = (0_usize, open);
        while at < self.len().min(open + ARGUMENTS) {
            match self.all[at].sign {
                b'<' => depth += 1,
                // An arrow is no bracket.
                b'>' if self.is_sign(at - 1, b'=') || self.is_sign(at - 1, b'-') => {}
                b'>' => {
                    depth -= 1;
                    if depth == 0 {
                        return Some(at + 1);
                    }
                }
                b'(' | b'[' | b'{' => at = self.behind(at)? - 1,
                0
                | b','
                | b'.'
                | b'?'
                | b'*'
                | b'&'
                | b'|'
                | b':'
                | b'@'
                | b'='
                | b'-'
                | lexer::TEXT
                | lexer::NUMBER => {}
                _ => return None,
            }
            at += 1;
        }
        None
    }

    /// The elements of a list between brackets: those of its tokens between commas.
    pub(super) fn elements(&self, between: Range<usize>) -> Vec<Range<usize>> {
        let mut elements = Vec::new();
        let (mut start, mut at) = (between.start, between.start);
        while at < between.end {
            match self.all[at].sign {
                b',' => {
                    elements.push(start..at);
                    start = at + 1;
                    at += 1;
                }
                b'(' | b'[' | b'{' => at = self.behind(at).unwrap_or(at + 1),
                b'<' => at = self.behind_arguments(at).filter(|&end| end <= between.end).unwrap_or(at + 1),
                _ => at += 1,
            }
        }
        if start < between.end {
            elements.push(start..between.end);
        }
        elements
    }

    /// The sign behind which stands what something is set to.
    pub(super) fn set_to(&self, within: Range<usize>) -> Option<usize> {
        let mut start = within.start;
        loop {
            let sign = self.find(start..within.end, b"=").filter(|&at| self.is_sign(at, b'='))?;
            // An arrow sets nothing.
            if !self.are_signs(sign, b"=>") {
                return Some(sign);
            }
            start = sign + 1;
        }
    }

    /// The first of some signs outside of brackets, in some tokens.
    pub(super) fn find(&self, within: Range<usize>, signs: &[u8]) -> Option<usize> {
        let mut at = within.start;
        while at < within.end {
            let sign = self.all.get(at)?.sign;
            // What only one of several conditions brings in ends it too.
            if signs.contains(&sign) || matches!(sign, BRANCH_BEGINS | BRANCH_AGAIN | BRANCHES_END) {
                return Some(at);
            }
            at = match sign {
                b'(' | b'[' | b'{' => self.behind(at).unwrap_or(at + 1),
                _ => at + 1,
            };
        }
        None
    }
}

/// Brackets of different branches of a condition are no partners.
fn partners(tokens: &[Token]) -> Vec<u32> {
    let mut partners = vec![u32::MAX; tokens.len()];
    let mut open: Vec<(u32, u32)> = Vec::new();
    let mut conditions: Vec<(Vec<(u32, u32)>, u32)> = Vec::new();
    let (mut branch, mut branches) = (0, 0);
    for (at, token) in tokens.iter().enumerate() {
        match token.sign {
            b'(' | b'[' | b'{' => open.push((at as u32, branch)),
            b')' | b']' | b'}' => {
                let opening = match token.sign {
                    b')' => b'(',
                    b']' => b'[',
                    _ => b'{',
                };
                // A brace ends what was left open in it; another bracket only what is open last.
                while token.is(b'}') && open.pop_if(|(open, _)| !tokens[*open as usize].is(b'{')).is_some() {}
                let partner = open.pop_if(|(open, _)| tokens[*open as usize].is(opening));
                if let Some((partner, _)) = partner.filter(|(_, of)| *of == branch) {
                    partners[at] = partner;
                    partners[partner as usize] = at as u32;
                }
            }
            BRANCH_BEGINS if conditions.len() < NESTED && open.len() < OPEN => {
                conditions.push((open.clone(), branch));
                branches += 1;
                branch = branches;
            }
            BRANCH_AGAIN => {
                open = conditions.last().map(|(open, _)| open.clone()).unwrap_or_default();
                branches += 1;
                branch = branches;
            }
            BRANCHES_END => branch = conditions.pop().map_or(0, |(_, around)| around),
            _ => {}
        }
    }
    partners
}
