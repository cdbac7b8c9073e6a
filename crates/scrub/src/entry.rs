//! An entry of HAR: each string in it is gone over as what it is.

use std::borrow::Cow;

use super::Scrubber;
use super::blank::{self, BlankReason};
use super::json::{DEEPEST, MessageSide};
use super::layers::in_literal;
use super::replacements::Replacements;
use super::scrubber::SecretLocation;
use super::tape::{Tape, TapeNode, TokenKind};
use faithful_clerk_model::secret::SecretKind;

/// What the pairs of a list hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum PairSort {
    Header,
    Cookie,
    Parameter,
}

/// What a value of an entry is, as far as the standard says.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Role {
    Entry,
    Request,
    Response,
    /// What stands beside request and response.
    Beside,
    Pairs(PairSort),
    /// A name and a value.
    Pair(PairSort),
    /// The body of a request.
    PostData,
    /// The body of a response.
    Content,
    Url,
    /// What a recorder wrote for itself.
    Own,
}

impl Role {
    /// What the member of that name is.
    fn member(self, name: &str) -> Self {
        match (self, name) {
            (Self::Entry, "request") => Self::Request,
            (Self::Entry, "response") => Self::Response,
            (Self::Entry, _) => Self::Beside,
            (Self::Request | Self::Response | Self::Beside, "headers" | "_trailers") => {
                Self::Pairs(PairSort::Header)
            }
            (Self::Request | Self::Response | Self::Beside, "cookies") => {
                Self::Pairs(PairSort::Cookie)
            }
            (Self::Request, "queryString") | (Self::PostData, "params") => {
                Self::Pairs(PairSort::Parameter)
            }
            (Self::Request, "postData") => Self::PostData,
            (Self::Response, "content") => Self::Content,
            (Self::Request, "url") | (Self::Response, "redirectURL") => Self::Url,
            (Self::Pairs(sort), _) => Self::Pair(sort),
            _ => Self::Own,
        }
    }

    /// What an item is.
    fn item(self) -> Self {
        match self {
            Self::Entry => Self::Beside,
            Self::Pairs(sort) => Self::Pair(sort),
            _ => Self::Own,
        }
    }
}

/// The names on the way to a value.
#[derive(Debug, Clone, Copy)]
struct Names<'n> {
    /// Its own, if it is a member's value.
    own: Option<&'n str>,
    /// The nearest that is no number.
    nearest: &'n str,
}

impl<'n> Names<'n> {
    fn member(self, name: &'n str) -> Self {
        let nearest = if is_number(name) { self.nearest } else { name };
        Self { own: Some(name), nearest }
    }

    fn item(self) -> Self {
        Self { own: None, ..self }
    }
}

fn is_number(name: &str) -> bool {
    name.parse::<usize>().is_ok()
}

/// Room for more tokens is not kept: few entries have as many.
const MOST_ROOM: usize = 1 << 16;

/// Where a string stands that a recorder wrote for itself.
const OWN: &str = "the recorder's own members";

impl Scrubber<'_> {
    /// Replaces in an entry of HAR.
    pub(super) fn har_entry(&mut self, text: &str) -> Option<String> {
        let room = std::mem::take(&mut self.memory.tokens);
        let Some(tape) = Tape::read(text, room) else {
            self.blanked("an entry", BlankReason::Unreadable);
            return Some(String::from_utf8_lossy(&blank::unread(text.as_bytes())).into_owned());
        };
        let edits = Replacements::of(text);
        let mut walk = EntryWalk {
            scrubber: self,
            edits,
            root: tape.root(),
            side: None,
            codings: [None, None],
        };
        walk.value(tape.root(), Role::Entry, Names { own: None, nearest: "" });
        let new = walk.edits.done();
        let room = tape.into_room();
        if room.capacity() <= MOST_ROOM {
            self.memory.tokens = room;
        }
        new
    }
}

/// On the way over an entry.
struct EntryWalk<'s, 'r, 'p, 't> {
    scrubber: &'s mut Scrubber<'r>,
    edits: Replacements<'t>,
    root: TapeNode<'p, 't>,
    /// Whose the response's body is, once that was asked.
    side: Option<MessageSide>,
    /// The content codings of request and response, once they were asked.
    codings: [Option<Option<String>>; 2],
}

impl<'p, 't> EntryWalk<'_, '_, 'p, 't> {
    /// A value. Only values of a role go deeper here, and no role is deep.
    fn value(&mut self, node: TapeNode<'p, 't>, role: Role, names: Names<'_>) {
        match (role, node.kind()) {
            (Role::Own, _) => self.own(node, names),
            (Role::Url, TokenKind::Text) => self.edit(node, |scrubber, url| scrubber.url(url)),
            (Role::Pair(sort), TokenKind::Object) => self.pair(node, sort, names),
            (Role::PostData | Role::Content, TokenKind::Object) => self.body(node, role, names),
            (_, TokenKind::Object) => {
                for (name, value) in node.members() {
                    let plain = self.name(name);
                    self.value(value, role.member(&plain), names.member(&plain));
                }
            }
            (_, TokenKind::List) => {
                for item in node.items() {
                    self.value(item, role.item(), names.item());
                }
            }
            _ => self.own(node, names),
        }
    }

    /// Goes over a name or text.
    fn edit(
        &mut self,
        node: TapeNode<'p, 't>,
        change: impl FnOnce(&mut Scrubber<'_>, &str) -> Option<String>,
    ) {
        let mut change = Some(change);
        let new = in_literal(node.raw(), &mut |value| change.take()?(self.scrubber, value));
        if let Some(new) = new {
            self.edits.replace(node.range(), &new);
        }
    }

    /// Goes over the name of a member, and gives it.
    fn name(&mut self, node: TapeNode<'p, 't>) -> Cow<'t, str> {
        let plain = node.plain();
        let facts = self.scrubber.name_facts(&plain);
        if !self.scrubber.memory.is_plain_name(facts) {
            self.edit(node, |scrubber, name| scrubber.name(name, facts, SecretLocation::of(OWN)));
        }
        plain
    }

    /// A name and a value. The same pair comes again and again.
    fn pair(&mut self, node: TapeNode<'p, 't>, sort: PairSort, names: Names<'_>) {
        let scrubber = &mut *self.scrubber;
        if let Some(words) = scrubber.memory.plain_pair(node.raw(), sort) {
            scrubber.words.note(words.iter().copied());
            return;
        }
        let before = (scrubber.effects, scrubber.words.len());
        let word = node.word("name");
        for (name, value) in node.members() {
            let plain = self.name(name);
            if plain == "value" && value.kind() == TokenKind::Text {
                self.edit(value, |scrubber, text| match sort {
                    PairSort::Header => scrubber.header(&word, text),
                    PairSort::Parameter => scrubber.parameter(&word, text),
                    PairSort::Cookie => {
                        let location = SecretLocation::named("cookie", &word);
                        scrubber.secret(text, SecretKind::Cookie, location)
                    }
                });
            } else {
                self.own(value, names.member(&plain));
            }
        }
        let scrubber = &mut *self.scrubber;
        if scrubber.effects == before.0
            && let Some(words) = scrubber.words.since(before.1)
        {
            scrubber.memory.enter_plain_pair(node.raw(), sort, words);
        }
    }

    /// A body, with what is said of it.
    fn body(&mut self, node: TapeNode<'p, 't>, role: Role, names: Names<'_>) {
        let (media, encoding) = (node.word("mimeType"), node.word("encoding"));
        for (name, value) in node.members() {
            let plain = self.name(name);
            if plain != "text" || value.kind() != TokenKind::Text {
                self.value(value, role.member(&plain), names.member(&plain));
                continue;
            }
            let side = if role == Role::PostData { MessageSide::Request } else { self.side() };
            if encoding == "base64" {
                let coding = self.coding(role);
                self.edit(value, |scrubber, text| {
                    scrubber.encoded(text, &media, coding.as_deref(), side)
                });
            } else {
                self.edit(value, |scrubber, text| scrubber.body(text, &media, side));
            }
        }
    }

    /// The content coding of the message that a body is in.
    fn coding(&mut self, role: Role) -> Option<String> {
        let [request, response] = &mut self.codings;
        let (known, message) = match role {
            Role::PostData => (request, "request"),
            _ => (response, "response"),
        };
        known.get_or_insert_with(|| coding_of(self.root, message)).clone()
    }

    /// Whose the response's body is.
    fn side(&mut self) -> MessageSide {
        let root = self.root;
        *self.side.get_or_insert_with(|| {
            let status = root.member("response").and_then(|response| response.member("status"));
            let status = status.and_then(|status| status.raw().parse::<u64>().ok());
            MessageSide::of(status.unwrap_or_default() >= 400)
        })
    }

    /// Something that a recorder wrote for itself, of any depth.
    fn own(&mut self, node: TapeNode<'p, 't>, names: Names<'_>) {
        let mut open: Vec<OpenLevel<'t>> = Vec::new();
        let (end, mut next) = (node.next(), Some(node));
        while let Some(node) = next.filter(|one| one.number() < end) {
            while open.last().is_some_and(|level| level.end <= node.number()) {
                open.pop();
            }
            match node.kind() {
                TokenKind::Object | TokenKind::List => {
                    let around = nearest(&open);
                    open.push(OpenLevel { end: node.next(), name: None, around });
                }
                TokenKind::Name => {
                    let plain = self.name(node);
                    if let Some(level) = open.last_mut() {
                        level.name = Some(plain);
                    }
                }
                TokenKind::Text => {
                    let own = match open.last() {
                        Some(level) => level.name.as_deref(),
                        None => names.own,
                    };
                    let nearest = nearest(&open).and_then(|at| open.get(at)?.name.as_deref());
                    let names = Names { own, nearest: nearest.unwrap_or(names.nearest) };
                    self.edit(node, |scrubber, text| scrubber.other(names, text));
                }
                TokenKind::Number | TokenKind::Word => {}
            }
            next = node.following();
        }
    }
}

/// An object or list that is open.
struct OpenLevel<'t> {
    /// The number of the token behind it.
    end: usize,
    /// The name of the member that is gone over.
    name: Option<Cow<'t, str>>,
    /// The nearest level around it with a name that is no number.
    around: Option<usize>,
}

/// The innermost level with a name that is no number.
fn nearest(open: &[OpenLevel<'_>]) -> Option<usize> {
    let level = open.last()?;
    let is_named = level.name.as_ref().is_some_and(|name| !is_number(name));
    if is_named { Some(open.len() - 1) } else { level.around }
}

/// The content coding that the headers of a request or response name.
fn coding_of(root: TapeNode<'_, '_>, message: &str) -> Option<String> {
    let headers = root.member(message)?.member("headers")?;
    let is_it =
        |header: &TapeNode<'_, '_>| header.word("name").eq_ignore_ascii_case("content-encoding");
    let value = headers.items().find(is_it)?.member("value")?;
    value.text().map(Cow::into_owned)
}

impl Scrubber<'_> {
    /// A string that a recorder wrote for itself.
    fn other(&mut self, names: Names<'_>, value: &str) -> Option<String> {
        // Dates, versions, media types and the like.
        if let Some(
            "name" | "mimeType" | "encoding" | "startedDateTime" | "httpVersion" | "method",
        ) = names.own
        {
            return None;
        }
        let location = SecretLocation::of(OWN);
        match self.is_secret(names.nearest) {
            Some(kind) => self.secret(value, kind, location),
            None => self.any(value, location, DEEPEST),
        }
    }
}
