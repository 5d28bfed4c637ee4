//! What the standard library of each language has for lists, for what may be absent and for what comes later, and which
//! types of it are plain values.

use super::Language;
use super::wires::Means;
use foldhash::HashMap;
use std::sync::LazyLock;

/// The types of a library, as words.
struct Library {
    all: &'static str,
    optional: &'static str,
    lazy: &'static str,
    plain: &'static str,
}

const JAVA: Library = Library {
    all: "[] List Set Collection Iterable Sequence Array MutableList \
          java.util.List java.util.Set java.util.Collection java.lang.Iterable",
    optional: "Optional java.util.Optional",
    lazy: "Supplier java.util.function.Supplier Lazy",
    plain: "int long short byte char boolean float double void String Integer Long Short Byte Character Boolean Float \
            Double Object CharSequence Number Class Enum Int Char Any Unit Nothing KClass Map MutableMap Pair Triple \
            java.lang.String java.lang.Class java.lang.Object java.util.Map java.util.Properties java.util.UUID \
            java.util.Locale java.util.Date java.time.Duration java.time.Instant java.time.LocalDate \
            java.time.LocalTime java.time.LocalDateTime java.time.ZoneId java.math.BigDecimal java.math.BigInteger \
            java.net.URI java.net.URL java.nio.file.Path java.io.File java.util.regex.Pattern \
            java.nio.charset.Charset",
};

const C_SHARP: Library = Library {
    all: "[] IEnumerable IReadOnlyList IReadOnlyCollection ICollection IList List \
          System.Collections.Generic.IEnumerable System.Collections.Generic.IReadOnlyList \
          System.Collections.Generic.List",
    optional: "",
    lazy: "Lazy Func System.Lazy System.Func",
    plain: "int long short byte uint ulong ushort sbyte char bool float double decimal string object nint String Object \
            Int32 Int64 Boolean Double Decimal DateTime DateTimeOffset DateOnly TimeOnly TimeSpan Guid Uri Type Version \
            Dictionary IDictionary IReadOnlyDictionary KeyValuePair Tuple Action CancellationToken Encoding CultureInfo",
};

const PHP: Library = Library {
    all: "",
    optional: "",
    lazy: "",
    plain: "int float string bool array iterable callable object mixed null false true void never Closure \
            DateTimeInterface DateTimeImmutable DateTime DateInterval DateTimeZone",
};

const TYPE_SCRIPT: Library = Library {
    all: "[] Array ReadonlyArray Iterable Set ReadonlySet",
    optional: "",
    lazy: "",
    plain: "string number boolean bigint symbol any unknown object null undefined void never Date RegExp URL Map \
            ReadonlyMap Record Function Promise Partial Error",
};

const PYTHON: Library = Library {
    all: "list List Sequence Iterable set Set frozenset tuple Tuple Collection typing.List typing.Sequence \
          typing.Iterable typing.Set typing.Tuple typing.Collection collections.abc.Sequence collections.abc.Iterable \
          collections.abc.Collection",
    optional: "Optional typing.Optional",
    lazy: "",
    plain: "int float str bytes bool object complex None Any dict Dict Mapping Callable type Type Path datetime date \
            timedelta Decimal UUID Literal typing.Any typing.Dict typing.Mapping typing.Callable typing.Type \
            typing.Literal collections.abc.Mapping collections.abc.Callable pathlib.Path datetime.datetime \
            datetime.date datetime.timedelta decimal.Decimal uuid.UUID",
};

impl Library {
    /// By name what each type stands for.
    fn by_name(&self) -> HashMap<&'static str, Means> {
        let Self { all, optional, lazy, plain } = self;
        let meanings =
            [(all, Means::All), (optional, Means::Optional), (lazy, Means::Lazy), (plain, Means::Plain)];
        let of =
            |(words, means): (&&'static str, Means)| words.split_whitespace().map(move |word| (word, means));
        meanings.into_iter().flat_map(of).collect()
    }
}

/// The libraries of Java, C#, PHP, TypeScript and Python.
static BY_NAME: LazyLock<[HashMap<&'static str, Means>; 5]> =
    LazyLock::new(|| [JAVA, C_SHARP, PHP, TYPE_SCRIPT, PYTHON].map(|library| library.by_name()));

/// What a type of a language's standard library stands for where a parameter is of it.
pub(super) fn meaning(name: &str, language: Language) -> Option<Means> {
    let library = match language {
        Language::Java | Language::Kotlin | Language::ClassFile => 0,
        Language::CSharp => 1,
        Language::Php => 2,
        Language::TypeScript => 3,
        Language::Python => 4,
    };
    let name = name.trim_start_matches('\\');
    // In PHP a name that stands alone is first looked for in the own scope.
    let name = if language == Language::Php { name.rsplit('\\').next().unwrap_or(name) } else { name };
    BY_NAME[library].get(name).copied()
}
