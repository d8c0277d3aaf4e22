use crate::fault::Fault;
use crate::fault::few_forms;
use crate::likeness;
use crate::schema::raw::{KindName, RawCase, RawField, RawLength, RawReadOnly, RawUnit};
use crate::schema::record::{
    Affixes, DateBound, Field, Kind, Many, MomentBound, Range, SUSPICIONS, Stated, TextRules,
};
use crate::value::{
    Case, Date, DatePattern, Duration, DurationUnit, Length, LengthUnit, Moment, MomentPattern, Number,
    Pattern, Picklist, TimeOfDay, TimePattern, number, phone, truth, web,
};
use std::ops::Range as Span;
use toml::{Spanned, Value};

pub(super) fn field(
    raw: &Spanned<RawField>,
    picklists: &[(String, Picklist, bool)],
    faults: &mut Vec<Fault>,
) -> Field {
    let place = raw.span();
    let raw = raw.get_ref();
    name(raw, &place, faults);
    ignored(raw, faults);
    let kind = raw.kind.as_ref().map(|kind| *kind.get_ref());
    if kind.is_none() {
        let fault = Fault::missing(place.clone(), "kind", "what its values are, such as `kind = \"text\"`");
        faults.push(Fault { message: format!("the field{} has no `kind`", named(raw)), ..fault });
    }
    kind.into_iter().for_each(|kind| super::own_keys::check(kind, raw, faults));
    let values = kind.map_or(Kind::Unjudged, |kind| rules(kind, raw, &place, picklists, faults));
    let name = raw.name.as_ref().map(|name| name.get_ref().clone()).unwrap_or_default();
    let field = Field {
        label: raw.label.as_ref().map_or_else(|| name.clone(), |label| label.get_ref().clone()),
        name,
        also: raw.also.iter().flatten().map(|word| word.get_ref().clone()).collect(),
        unjudged: None,
        kind: values,
        stated: stated(raw, picklists),
        required: raw.required.as_ref().map(|required| required.get_ref().0).unwrap_or_default(),
        default: raw.default.as_ref().and_then(|value| scalar(value.get_ref())),
        read_only: raw.read_only == Some(RawReadOnly::Always),
        read_only_later: raw.read_only == Some(RawReadOnly::WhenUpdating),
        numbered: raw.numbered.unwrap_or_default(),
        sensitive: raw.sensitive.unwrap_or_default(),
        example: raw.example.as_ref().and_then(|value| scalar(value.get_ref())),
        ignore: raw.ignore.iter().flatten().filter_map(|code| code.get_ref().parse().ok()).collect(),
    };
    told_default(raw, &field, picklists, faults);
    field
}

fn named(raw: &RawField) -> String {
    raw.name.as_ref().map(|name| format!(" `{}`", name.get_ref())).unwrap_or_default()
}

fn name(raw: &RawField, place: &Span<usize>, faults: &mut Vec<Fault>) {
    match &raw.name {
        None => {
            let fault = Fault::missing(place.clone(), "name", "the target's own technical name");
            faults.push(Fault { message: "a field without a `name`".to_owned(), ..fault });
        }
        Some(name) if name.get_ref().trim().is_empty() || name.get_ref().contains(char::is_control) => {
            faults.push(Fault::new(name.span(), "a field's name is text without control characters"));
        }
        Some(_) => {}
    }
}

fn ignored(raw: &RawField, faults: &mut Vec<Fault>) {
    for code in raw.ignore.iter().flatten() {
        if !SUSPICIONS.contains(&code.get_ref().as_str()) {
            let fault = Fault::new(
                code.span(),
                format!("`{}` is no suspicion that could be ignored", code.get_ref()),
            );
            let near = likeness::nearest(code.get_ref(), SUSPICIONS.iter().map(|code| (*code, *code)));
            faults.push(match near {
                Some(near) => fault.help(format!("did you mean `{near}`?")),
                None => fault.help(format!("permitted: {}", SUSPICIONS.join(", "))),
            });
        }
    }
}

fn rules(
    kind: KindName,
    raw: &RawField,
    place: &Span<usize>,
    picklists: &[(String, Picklist, bool)],
    faults: &mut Vec<Fault>,
) -> Kind {
    match kind {
        KindName::Text => Kind::Text(text(raw, faults)),
        KindName::Integer => Kind::Integer(range(raw, faults, integer_bound)),
        KindName::Decimal => {
            let digits = raw.digits.as_ref().map(Spanned::get_ref);
            let count = |count: Option<u32>| count.map(|count| count as usize);
            Kind::Decimal {
                digits: (count(digits.and_then(|d| d.before)), count(digits.and_then(|d| d.after))),
                range: range(raw, faults, decimal_bound),
                affixes: Affixes {
                    percent: raw.percent.as_ref().is_some_and(|percent| *percent.get_ref()),
                    currency: raw.currency.as_ref().map(|marks| marks.get_ref().clone()).unwrap_or_default(),
                },
            }
        }
        KindName::Boolean => Kind::Boolean,
        KindName::Date => Kind::Date { dates: patterns(raw, faults), range: range(raw, faults, date_bound) },
        KindName::Picklist => list(raw, place, picklists, faults),
        KindName::Email => Kind::Email(length(raw.length.as_ref(), faults)),
        KindName::Datetime => {
            let sources = raw.dates.as_ref().map(|dates| dates.get_ref().as_slice()).unwrap_or_default();
            let dates = read_forms(sources, MomentPattern::new, faults);
            Kind::Datetime { dates, range: range(raw, faults, moment_bound) }
        }
        KindName::Time => {
            let sources = raw.times.as_ref().map(|times| times.get_ref().as_slice()).unwrap_or_default();
            Kind::Time {
                times: read_forms(sources, TimePattern::new, faults),
                range: range(raw, faults, time_bound),
            }
        }
        KindName::Duration => duration(raw, faults),
        KindName::Phone => phone_of(raw, faults),
        KindName::Url => Kind::Url(length(raw.length.as_ref(), faults)),
        KindName::Uuid => Kind::Uuid(length(raw.length.as_ref(), faults)),
        KindName::Reference => {
            if raw.to.is_none() {
                let fault = Fault::new(place.clone(), format!("the field{} refers to no record", named(raw)));
                let fault = fault.help("add `to`, the name of the record it must be the key of");
                faults.push(Fault { absent: Some("to"), ..fault });
            }
            Kind::Reference(raw.to.as_ref().map(|to| to.get_ref().clone()).unwrap_or_default())
        }
    }
}

fn duration(raw: &RawField, faults: &mut Vec<Fault>) -> Kind {
    let unit = raw.unit.as_ref().and_then(|unit| {
        let known = DurationUnit::named(unit.get_ref());
        if known.is_none() {
            let fault = Fault::new(unit.span(), format!("`{}` is no unit of time", unit.get_ref()));
            let names: Vec<_> = DurationUnit::names().collect();
            faults.push(fault.help(format!("permitted: {}", names.join(", "))));
        }
        known
    });
    Kind::Duration { unit, range: range(raw, faults, duration_bound) }
}

fn phone_of(raw: &RawField, faults: &mut Vec<Fault>) -> Kind {
    if let Some(region) = raw.region.as_ref().filter(|region| phone::region(region.get_ref()).is_none()) {
        let fault =
            Fault::new(region.span(), format!("`{}` is no region with phone numbers", region.get_ref()));
        faults.push(fault.help("its ISO 3166-1 code of two letters, such as \"GB\""));
    }
    Kind::Phone(raw.region.as_ref().map(|region| region.get_ref().clone()))
}

fn read_forms<T>(
    sources: &[Spanned<String>],
    read: fn(&str) -> Result<T, String>,
    faults: &mut Vec<Fault>,
) -> Vec<T> {
    let few = few_forms(sources, faults);
    let mut one = |source: &Spanned<String>| {
        read(source.get_ref()).map_err(|fault| faults.push(Fault::new(source.span(), fault))).ok()
    };
    few.iter().filter_map(&mut one).collect()
}

fn text(raw: &RawField, faults: &mut Vec<Fault>) -> TextRules {
    let pattern = raw.pattern.as_ref().and_then(|source| {
        let pattern = Pattern::new(source.get_ref());
        let help =
            "patterns are regular expressions that the whole value must match, such as \"HT-[0-9]{7}\"";
        pattern.map_err(|error| faults.push(Fault::new(source.span(), error.to_string()).help(help))).ok()
    });
    let case = raw.case.as_ref().and_then(|case| match case.get_ref() {
        RawCase::Upper => Some(Case::Upper),
        RawCase::Lower => Some(Case::Lower),
        RawCase::Any => None,
    });
    let pattern_says = raw.pattern_says.as_ref().map(|says| says.get_ref().clone());
    TextRules { pattern, pattern_says, case, length: length(raw.length.as_ref(), faults) }
}

fn length(raw: Option<&Spanned<RawLength>>, faults: &mut Vec<Fault>) -> Length {
    let Some(raw) = raw else { return Length::default() };
    let length = raw.get_ref();
    let min = length.min.as_ref().map(|min| *min.get_ref() as usize);
    let max = length.max.map(|max| max as usize);
    if let (Some(least), Some(most)) = (min, max)
        && least > most
    {
        let fault =
            Fault::new(raw.span(), format!("the length is upside down: at least {least}, at most {most}"));
        faults.push(fault.help("change the two about"));
    }
    let unit = match length.unit {
        Some(RawUnit::Byte) => LengthUnit::Byte,
        Some(RawUnit::Utf16) => LengthUnit::Utf16,
        Some(RawUnit::Character) | None => LengthUnit::Character,
    };
    Length { min, max, unit }
}

fn patterns(raw: &RawField, faults: &mut Vec<Fault>) -> Vec<DatePattern> {
    let sources = raw.dates.as_ref().map(|dates| dates.get_ref().as_slice()).unwrap_or_default();
    let sources = few_forms(sources, faults);
    let mut read = |source: &Spanned<String>| {
        let pattern = DatePattern::new(source.get_ref());
        pattern.map_err(|fault| faults.push(Fault::new(source.span(), fault.to_string()))).ok()
    };
    sources.iter().filter_map(&mut read).collect()
}

fn list(
    raw: &RawField,
    place: &Span<usize>,
    picklists: &[(String, Picklist, bool)],
    faults: &mut Vec<Fault>,
) -> Kind {
    let Some(wanted) = &raw.picklist else {
        let fault =
            Fault::new(place.clone(), format!("the field{} of kind picklist names no picklist", named(raw)));
        let fault = fault.help("add `picklist = \"NAME\"` and a `[picklist.NAME]`");
        faults.push(Fault { absent: Some("picklist"), ..fault });
        return Kind::Unjudged;
    };
    if let Some(number) = picklists.iter().position(|list| list.0 == *wanted.get_ref()) {
        return Kind::Picklist(number);
    }
    let fault = Fault::new(wanted.span(), format!("there is no picklist `{}`", wanted.get_ref()));
    // Perhaps its heading could not be read.
    let fault = Fault { absent: Some("[picklist]"), ..fault };
    let near = likeness::nearest(wanted.get_ref(), picklists.iter().map(|list| (list.0.as_str(), &list.0)));
    faults.push(match near {
        Some(near) => fault.help(format!("did you mean `{near}`?")),
        None => fault.help(format!("add a `[picklist.{}]`", wanted.get_ref())),
    });
    Kind::Unjudged
}

fn range<T>(raw: &RawField, faults: &mut Vec<Fault>, read: fn(&Value) -> Result<T, &'static str>) -> Range<T>
where
    T: Clone + std::fmt::Display + UpsideDown,
{
    let Some(raw) = &raw.range else { return Range::default() };
    let mut end = |value: &Option<Spanned<Value>>| {
        let value = value.as_ref()?;
        let bound = read(value.get_ref());
        bound
            .map_err(|expected| {
                faults.push(Fault::new(value.span(), format!("an end of the range is not {expected}")))
            })
            .ok()
    };
    let range = Range { min: end(&raw.get_ref().min), max: end(&raw.get_ref().max) };
    if let (Some(min), Some(max)) = (&range.min, &range.max)
        && min.is_above(max)
    {
        let fault = Fault::new(raw.span(), format!("the range is upside down: from {min} to {max}"));
        faults.push(fault.label("the first is above the second").help("change the two about"));
    }
    range
}

/// Whether one end lies above another, as far as that can be told without the day of the run.
trait UpsideDown {
    fn is_above(&self, other: &Self) -> bool;
}

impl UpsideDown for Number<'_> {
    fn is_above(&self, other: &Self) -> bool {
        self > other
    }
}

impl UpsideDown for DateBound {
    fn is_above(&self, other: &Self) -> bool {
        matches!((self, other), (Self::Day(one), Self::Day(other)) if one > other)
    }
}

impl std::fmt::Display for DateBound {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Day(date) => date.fmt(f),
            Self::Today => f.write_str("today"),
        }
    }
}

fn integer_bound(value: &Value) -> Result<Number<'static>, &'static str> {
    let number =
        value.as_integer().and_then(|n| Number::integer(&n.to_string()).map(number::Number::into_owned));
    number.ok_or("a whole number")
}

fn decimal_bound(value: &Value) -> Result<Number<'static>, &'static str> {
    let float = value.as_float().and_then(Number::from_f64);
    float.or_else(|| integer_bound(value).ok()).ok_or("a number")
}

impl UpsideDown for TimeOfDay {
    fn is_above(&self, other: &Self) -> bool {
        self > other
    }
}

impl UpsideDown for Duration {
    fn is_above(&self, other: &Self) -> bool {
        self > other
    }
}

impl UpsideDown for MomentBound {
    fn is_above(&self, other: &Self) -> bool {
        matches!((self, other), (Self::At(one), Self::At(other)) if one > other)
    }
}

impl std::fmt::Display for MomentBound {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::At(_) => f.write_str("one moment"),
            Self::Today => f.write_str("today"),
        }
    }
}

fn time_bound(value: &Value) -> Result<TimeOfDay, &'static str> {
    scalar(value).and_then(|text| TimeOfDay::iso(&text)).ok_or("a time such as \"09:30\"")
}

fn duration_bound(value: &Value) -> Result<Duration, &'static str> {
    scalar(value)
        .and_then(|text| Duration::read(&text))
        .ok_or("a length of time such as \"2:30\" or \"PT2H30M\"")
}

fn moment_bound(value: &Value) -> Result<MomentBound, &'static str> {
    let text = scalar(value).unwrap_or_default();
    if text.eq_ignore_ascii_case("today") {
        return Ok(MomentBound::Today);
    }
    let moment = Moment::iso(&text).map(|moment| MomentBound::At(moment.instant()));
    moment.ok_or("a moment such as \"2024-12-31T09:30\", or \"today\"")
}

fn date_bound(value: &Value) -> Result<DateBound, &'static str> {
    let text = match value {
        Value::String(text) => text.clone(),
        Value::Datetime(datetime) => datetime.to_string(),
        _ => String::new(),
    };
    if text.eq_ignore_ascii_case("today") {
        return Ok(DateBound::Today);
    }
    Date::iso(&text).map(DateBound::Day).ok_or("a day such as \"1850-01-01\", or \"today\"")
}

/// A plain value as text.
pub(crate) fn scalar(value: &Value) -> Option<String> {
    match value {
        Value::String(text) => Some(text.clone()),
        Value::Integer(_) | Value::Boolean(_) | Value::Datetime(_) => Some(value.to_string()),
        Value::Float(number) => Number::from_f64(*number).map(|number| number.to_string()),
        Value::Array(_) | Value::Table(_) => None,
    }
}

/// A default must be a value of its field.
fn told_default(
    raw: &RawField,
    field: &Field,
    picklists: &[(String, Picklist, bool)],
    faults: &mut Vec<Fault>,
) {
    let Some(default) = &raw.default else { return };
    let text = field.default.as_deref().unwrap_or_default();
    let list = |number: usize| picklists.get(number).map(|list| &list.1);
    if !fits(field, list, text) {
        let kind = raw.kind.as_ref().map_or("text", |kind| kind.get_ref().name());
        let message = format!("the default of{} is no value of kind {kind}", named(raw));
        faults.push(Fault::new(default.span(), message).help("write it as a sound cell would hold it"));
    }
}

/// Whether a text is a value that the field could take as its default.
pub(crate) fn default_fits(field: &Field, picklists: &[Picklist], text: &str) -> bool {
    fits(field, |number| picklists.get(number), text)
}

fn fits<'a>(field: &Field, list: impl Fn(usize) -> Option<&'a Picklist>, text: &str) -> bool {
    let today = Date::new(2000, 1, 1);
    match &field.kind {
        Kind::Integer(_) => Number::integer(text).is_some(),
        Kind::Decimal { .. } => Number::decimal(text).is_some(),
        Kind::Boolean => truth::read(text).is_some(),
        Kind::Date { dates, .. } => {
            Date::iso(text).is_some()
                || dates.iter().any(|pattern| {
                    today.is_some_and(|today| {
                        matches!(pattern.read(text, today), crate::value::DateReading::Day { .. })
                    })
                })
        }
        Kind::Picklist(_) if field.stated.many.is_some() => !text.is_empty(),
        Kind::Picklist(number) => list(*number)
            .is_none_or(|list| list.open || matches!(list.find(text), crate::value::Match::Value(_))),
        Kind::Email(_) => crate::value::email::judge(text).is_ok(),
        Kind::Datetime { dates, .. } => {
            Moment::iso(text).is_some()
                || today.is_some_and(|today| dates.iter().any(|form| form.read(text, today).is_some()))
        }
        Kind::Time { times, .. } => {
            TimeOfDay::iso(text).is_some() || times.iter().any(|form| form.read(text).is_some())
        }
        Kind::Duration { unit, .. } => {
            Duration::read(text).or_else(|| Duration::in_unit(text, (*unit)?)).is_some()
        }
        Kind::Phone(region) => {
            phone::read(text, region.as_deref().and_then(phone::region).as_ref()).is_some()
        }
        Kind::Url(_) => web::is_url(text),
        Kind::Uuid(_) => web::is_uuid(text),
        Kind::Reference(_) | Kind::Text(_) | Kind::Unjudged => !text.is_empty(),
    }
}

/// What a schema says of a field beside what is judged: for people and for other systems.
fn stated(raw: &RawField, picklists: &[(String, Picklist, bool)]) -> Stated {
    let range = raw.range.as_ref().map(|range| range.get_ref());
    let kind = raw.kind.as_ref().map_or(KindName::Text, |kind| *kind.get_ref());
    let standard = |text: String| match kind {
        KindName::Duration => Duration::read(&text).map_or(text, |length| length.to_string()),
        _ => text,
    };
    let end = |end: Option<&Option<Spanned<Value>>>| {
        end.and_then(Option::as_ref).and_then(|end| scalar(end.get_ref())).map(standard)
    };
    let list = raw.picklist.as_ref().map(Spanned::get_ref);
    Stated {
        kind,
        unit: raw.unit.as_ref().map(|unit| unit.get_ref().clone()),
        help: raw.help.clone(),
        picklist: list.and_then(|wanted| picklists.iter().position(|list| list.0 == *wanted)),
        many: raw.many.as_ref().map(|many| Many {
            separator: many.get_ref().separator.clone().unwrap_or_else(|| ";".to_owned()),
            max: many.get_ref().max,
        }),
        to: raw.to.as_ref().map(|to| to.get_ref().clone()),
        range: Range { min: end(range.map(|range| &range.min)), max: end(range.map(|range| &range.max)) },
        length: length(raw.length.as_ref(), &mut Vec::new()),
        digits: raw
            .digits
            .as_ref()
            .map_or((None, None), |digits| (digits.get_ref().before, digits.get_ref().after)),
        dates: raw
            .dates
            .iter()
            .flat_map(|dates| dates.get_ref())
            .map(|form| form.get_ref().clone())
            .collect(),
        percent: raw.percent.as_ref().is_some_and(|percent| *percent.get_ref()),
        currency: raw.currency.as_ref().map(|currency| currency.get_ref().clone()).unwrap_or_default(),
    }
}
