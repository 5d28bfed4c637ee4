//! Where everything rendered is written to: text that came from audited files cannot get through as it is.
//!
//! Renderers are handed an [`Out`] and nothing else. Whatever is written to it, names, messages and paths of audited
//! files among it, has all that a terminal, an editor or a browser would act on written as escapes. Only styles,
//! which are no text, get through as they are. So no renderer can forget it.

use anstyle::Style;
use std::borrow::Cow;
use std::io::{self, Write};

/// A writer that nothing unsafe gets through.
pub struct Out<'w> {
    to: &'w mut dyn Write,
    is_json: bool,
}

impl<'w> Out<'w> {
    /// Writes on to `to`.
    pub fn new(to: &'w mut dyn Write) -> Self {
        Self { to, is_json: false }
    }

    /// The same for JSON, whose strings have escapes of their own: what is read back is what was written.
    pub(crate) fn json(&mut self) -> Out<'_> {
        Out { to: &mut *self.to, is_json: true }
    }

    /// Writes a text in a style.
    pub(crate) fn styled(&mut self, style: Style, text: &str) -> io::Result<()> {
        write!(self.to, "{style}")?;
        self.write_all(text.as_bytes())?;
        write!(self.to, "{style:#}")
    }

    fn text(&mut self, text: &str) -> io::Result<()> {
        let mut rest = text;
        while let Some(at) = rest.find(|character| character != '\n' && is_unsafe(character)) {
            let (before, after) = rest.split_at(at);
            self.to.write_all(before.as_bytes())?;
            let character = after.chars().next().unwrap_or_default();
            if self.is_json {
                for unit in character.encode_utf16(&mut [0; 2]) {
                    write!(self.to, "\\u{unit:04x}")?;
                }
            } else {
                write!(self.to, "{}", character.escape_unicode())?;
            }
            rest = &after[character.len_utf8()..];
        }
        self.to.write_all(rest.as_bytes())
    }
}

impl Write for Out<'_> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        if bytes.iter().all(|byte| matches!(byte, b' '..=b'~' | b'\n')) {
            self.to.write_all(bytes)?;
        } else {
            // Formatting hands over whole characters: nothing is cut in two here.
            for chunk in bytes.utf8_chunks() {
                self.text(chunk.valid())?;
                if !chunk.invalid().is_empty() {
                    self.text("\u{fffd}")?;
                }
            }
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.to.flush()
    }
}

/// Whether something that shows text would act on a character instead of showing it: control characters, separators
/// of lines, what has no width, what turns the direction of writing, tags, and what no XML may hold.
pub(crate) fn is_unsafe(character: char) -> bool {
    character.is_control()
        || matches!(
            character,
            '\u{061c}'
                | '\u{200b}'..='\u{200f}'
                | '\u{2028}'..='\u{202e}'
                | '\u{2060}'..='\u{206f}'
                | '\u{feff}'
                | '\u{fffe}'..='\u{ffff}'
                | '\u{e0000}'..='\u{e007f}'
        )
}

/// Text that came from audited files, with what a terminal would act on written as escapes.
pub fn safe(text: &str) -> Cow<'_, str> {
    if !text.chars().any(is_unsafe) {
        return Cow::Borrowed(text);
    }
    let mut safe = String::with_capacity(text.len() + 8);
    for character in text.chars() {
        if is_unsafe(character) {
            safe.extend(character.escape_unicode());
        } else {
            safe.push(character);
        }
    }
    Cow::Owned(safe)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn written(write: impl FnOnce(&mut Out<'_>)) -> String {
        let mut bytes = Vec::new();
        write(&mut Out::new(&mut bytes));
        String::from_utf8(bytes).unwrap()
    }

    #[rstest]
    #[case::escape('\u{1b}')]
    #[case::carriage_return('\r')]
    #[case::delete('\u{7f}')]
    #[case::control_sequence_introducer('\u{9b}')]
    #[case::right_to_left_override('\u{202e}')]
    #[case::isolate('\u{2067}')]
    #[case::arabic_letter_mark('\u{61c}')]
    #[case::line_separator('\u{2028}')]
    #[case::zero_width_space('\u{200b}')]
    #[case::tag('\u{e0041}')]
    fn what_others_would_act_on_is_escaped(#[case] character: char) {
        let text = format!("ž{character}{character}x");
        let shown = written(|out| write!(out, "{text}").unwrap());
        assert_eq!(shown, safe(&text));
        assert!(shown.starts_with("ž\\u{") && shown.ends_with('x') && !shown.contains(character), "{shown}");
        let json = written(|out| serde_json::to_writer(out.json(), &text).unwrap());
        assert!(!json.contains(character), "{json}");
        assert_eq!(serde_json::from_str::<String>(&json).unwrap(), text);
    }

    #[test]
    fn lines_stay_and_styles_get_through() {
        let text = written(|out| {
            writeln!(out, "žluť").unwrap();
            out.styled(Style::new().bold(), "\u{1b}[31mname").unwrap();
        });
        assert_eq!(text, "žluť\n\u{1b}[1m\\u{1b}[31mname\u{1b}[0m");
    }

    #[test]
    fn what_is_no_text_does_not_get_through() {
        assert_eq!(written(|out| out.write_all(b"a\xffb\x9b").unwrap()), "a\u{fffd}b\u{fffd}");
    }
}
