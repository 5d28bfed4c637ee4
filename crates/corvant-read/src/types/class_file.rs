//! Class files: what a compiler made of a type, by the crate that reads them.

use super::outline::{
    Callable, FieldOutline, Literal, Mark, Outline, Parameter, TypeOutline, TypeUse, Value,
};
use cafebabe::attributes::{Annotation, AnnotationElementValue, AttributeData};
use cafebabe::constant_pool::LiteralConstant;
use cafebabe::descriptors::{FieldDescriptor, FieldType, MethodDescriptor, ReturnDescriptor};
use cafebabe::{ClassAccessFlags, MethodAccessFlags};
use corvant_core::facts::TypeKind;

/// What a class file declares; nothing, if it describes a module or a package.
pub(super) fn outline(bytes: &[u8]) -> Result<Outline, String> {
    let mut options = cafebabe::ParseOptions::default();
    options.parse_bytecode(false);
    let class = cafebabe::parse_class_with_options(bytes, &options).map_err(|error| error.to_string())?;
    let name = dotted(&class.this_class);
    if name.ends_with("-info") {
        return Ok(Outline::default());
    }
    let flags = class.access_flags;
    let has = |flag| flags.contains(flag);
    let kind = match () {
        () if has(ClassAccessFlags::ANNOTATION) => TypeKind::Mark,
        () if has(ClassAccessFlags::INTERFACE) => TypeKind::Interface,
        () if has(ClassAccessFlags::ENUM) => TypeKind::Enum,
        () => TypeKind::Class,
    };
    let plain = |name: String| TypeUse { name, ..TypeUse::default() };
    let supers = class.super_class.iter().map(|name| dotted(name)).filter(|name| name != "java.lang.Object");
    let interfaces = class.interfaces.iter().map(|name| dotted(name));
    let mut outline = TypeOutline {
        scope: name.rsplit_once('.').map_or_else(String::new, |(scope, _)| scope.to_owned()),
        kind,
        is_abstract: has(ClassAccessFlags::ABSTRACT),
        supers: supers.chain(interfaces).map(plain).collect(),
        marks: class.attributes.iter().flat_map(|attribute| marks(&attribute.data)).collect(),
        ..TypeOutline::default()
    };
    for method in &class.methods {
        // What the compiler adds nobody wrote.
        if method.access_flags.intersects(MethodAccessFlags::SYNTHETIC | MethodAccessFlags::BRIDGE) {
            continue;
        }
        let callable = callable(method);
        match method.name.as_ref() {
            "<init>" => outline.constructors.push(callable),
            "<clinit>" => {}
            _ => outline.methods.push(callable),
        }
    }
    outline.fields = class.fields.iter().map(field).filter(is_of_interest).collect();
    outline.name = name;
    Ok(Outline { types: vec![outline], ..Outline::default() })
}

/// Of most fields nobody ever asks, and there are many.
fn is_of_interest(field: &FieldOutline) -> bool {
    !field.marks.is_empty() || field.value.is_some()
}

fn field(field: &cafebabe::FieldInfo<'_>) -> FieldOutline {
    let value = field.attributes.iter().find_map(|attribute| match &attribute.data {
        AttributeData::ConstantValue(LiteralConstant::String(text)) => Some(Value::Text(text.to_string())),
        _ => None,
    });
    FieldOutline {
        name: field.name.to_string(),
        type_use: Some(of_field(&field.descriptor)),
        marks: field.attributes.iter().flat_map(|attribute| marks(&attribute.data)).collect(),
        value: value.map(|value| Literal { value, at: 0..0 }),
        ..FieldOutline::default()
    }
}

fn dotted(name: &str) -> String {
    name.replace(['/', '$'], ".")
}

fn callable(method: &cafebabe::MethodInfo<'_>) -> Callable {
    let MethodDescriptor { parameters, return_type } = &method.descriptor;
    let names = method.attributes.iter().find_map(|attribute| match &attribute.data {
        AttributeData::MethodParameters(all) => Some(all),
        _ => None,
    });
    let of_parameters = method.attributes.iter().find_map(|attribute| match &attribute.data {
        AttributeData::RuntimeVisibleParameterAnnotations(all) => Some(all),
        _ => None,
    });
    let signature = method.attributes.iter().find_map(|attribute| match &attribute.data {
        AttributeData::Signature(text) => Some(signature_types(text)),
        _ => None,
    });
    // What the compiler adds stands in descriptors alone.
    let signature = signature.filter(|types| types.len() == parameters.len() + 1);
    // Parameters that the compiler adds stand first, and have no marks.
    let offset = of_parameters.map_or(0, |all| parameters.len().saturating_sub(all.len()));
    let parameters = parameters.iter().enumerate().map(|(number, descriptor)| {
        let name = names.and_then(|names| names.get(number)).and_then(|known| known.name.as_ref());
        let marks = of_parameters.and_then(|all| all.get(number.checked_sub(offset)?));
        Parameter {
            name: name.map(ToString::to_string).unwrap_or_default(),
            type_use: Some(
                signature.as_ref().map_or_else(|| of_field(descriptor), |types| types[number].clone()),
            ),
            marks: marks.map(|all| all.annotations.iter().map(mark).collect()).unwrap_or_default(),
            ..Parameter::default()
        }
    });
    Callable {
        name: method.name.to_string(),
        parameters: parameters.collect(),
        returns: match return_type {
            ReturnDescriptor::Return(descriptor) => Some(of_field(descriptor)),
            ReturnDescriptor::Void => Some(TypeUse { name: "void".to_owned(), ..TypeUse::default() }),
        },
        is_static: method.access_flags.contains(MethodAccessFlags::STATIC),
        is_abstract: method.access_flags.contains(MethodAccessFlags::ABSTRACT),
        is_private: method.access_flags.contains(MethodAccessFlags::PRIVATE),
        marks: method.attributes.iter().flat_map(|attribute| marks(&attribute.data)).collect(),
        ..Callable::default()
    }
}

/// The types of a method's signature: those of its parameters, and the one it returns. Source: JVMS 4.7.9.1.
fn signature_types(text: &str) -> Vec<TypeUse> {
    let start = text.find('(').map_or(text.len(), |at| at + 1);
    let mut signature = Signature { bytes: text.as_bytes(), at: start };
    let mut types = Vec::new();
    while signature.at < text.len() {
        if signature.bytes[signature.at] == b')' {
            signature.at += 1;
            continue;
        }
        match signature.type_use(0) {
            Some(found) => types.push(found),
            None => return Vec::new(),
        }
        // What it throws is of no interest.
        if signature.bytes.get(signature.at) == Some(&b'^') {
            break;
        }
    }
    types
}

struct Signature<'a> {
    bytes: &'a [u8],
    at: usize,
}

impl Signature<'_> {
    fn name(&mut self, ends: &[u8]) -> String {
        let start = self.at;
        while self.bytes.get(self.at).is_some_and(|byte| !ends.contains(byte)) {
            self.at += 1;
        }
        dotted(&String::from_utf8_lossy(&self.bytes[start..self.at]))
    }

    fn type_use(&mut self, depth: usize) -> Option<TypeUse> {
        let byte = *self.bytes.get(self.at)?;
        self.at += 1;
        let plain = |name: &str| Some(TypeUse { name: name.to_owned(), ..TypeUse::default() });
        match byte {
            _ if depth > 20 => None,
            b'B' => plain("byte"),
            b'C' => plain("char"),
            b'D' => plain("double"),
            b'F' => plain("float"),
            b'I' => plain("int"),
            b'J' => plain("long"),
            b'S' => plain("short"),
            b'Z' => plain("boolean"),
            b'V' => plain("void"),
            b'*' => plain("*"),
            b'+' | b'-' => self.type_use(depth + 1),
            b'[' => Some(super::header::listed(self.type_use(depth + 1)?)),
            b'T' => {
                self.name(b";");
                self.at += 1;
                plain("*")
            }
            b'L' => {
                let mut of = TypeUse { name: self.name(b"<;."), ..TypeUse::default() };
                loop {
                    match self.bytes.get(self.at)? {
                        b'<' => {
                            self.at += 1;
                            while *self.bytes.get(self.at)? != b'>' {
                                of.arguments.push(self.type_use(depth + 1)?);
                            }
                            self.at += 1;
                        }
                        b'.' => {
                            self.at += 1;
                            of = TypeUse {
                                name: format!("{}.{}", of.name, self.name(b"<;.")),
                                ..TypeUse::default()
                            };
                        }
                        _ => break,
                    }
                }
                self.at += 1;
                Some(of)
            }
            _ => None,
        }
    }
}

/// A type by its descriptor, which says nothing of arguments: of a list it is not known what it is of.
fn of_field(descriptor: &FieldDescriptor<'_>) -> TypeUse {
    let name = match &descriptor.field_type {
        FieldType::Object(name) => dotted(name),
        FieldType::Byte => "byte".to_owned(),
        FieldType::Char => "char".to_owned(),
        FieldType::Double => "double".to_owned(),
        FieldType::Float => "float".to_owned(),
        FieldType::Integer => "int".to_owned(),
        FieldType::Long => "long".to_owned(),
        FieldType::Short => "short".to_owned(),
        FieldType::Boolean => "boolean".to_owned(),
    };
    let mut of = TypeUse { name, ..TypeUse::default() };
    for _ in 0..descriptor.dimensions {
        of = super::header::listed(of);
    }
    of
}

fn marks(attribute: &AttributeData<'_>) -> Vec<Mark> {
    match attribute {
        AttributeData::RuntimeVisibleAnnotations(all) | AttributeData::RuntimeInvisibleAnnotations(all) => {
            all.iter().map(mark).collect()
        }
        _ => Vec::new(),
    }
}

fn mark(annotation: &Annotation<'_>) -> Mark {
    let name = match &annotation.type_descriptor.field_type {
        FieldType::Object(name) => dotted(name),
        _ => String::new(),
    };
    let mut mark = Mark { name, ..Mark::default() };
    for element in &annotation.elements {
        let Some(value) = value(&element.value) else { continue };
        let literal = Literal { value, at: 0..0 };
        // The one that needs no name is called so.
        if element.name == "value" {
            mark.arguments.push(literal);
        } else {
            mark.named.push((element.name.to_string(), literal));
        }
    }
    mark
}

fn value(value: &AnnotationElementValue<'_>) -> Option<Value> {
    Some(match value {
        AnnotationElementValue::StringConstant(text) => Value::Text(text.to_string()),
        AnnotationElementValue::EnumConstant { type_name, const_name } => {
            let of = match &type_name.field_type {
                FieldType::Object(name) => dotted(name),
                _ => String::new(),
            };
            Value::Name(format!("{of}.{const_name}"))
        }
        AnnotationElementValue::ClassLiteral { class_name } => {
            Value::Type(dotted(class_name.trim_start_matches('L').trim_end_matches(';')))
        }
        AnnotationElementValue::ArrayValue(all) => {
            let all = all.iter().filter_map(|one| self::value(one));
            Value::List(all.map(|value| Literal { value, at: 0..0 }).collect())
        }
        _ => return None,
    })
}
