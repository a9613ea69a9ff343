#include "xml.h"

#include <algorithm>
#include <cstdlib>
#include <cstring>

#include "utf8.h"

namespace ensayo {

namespace {

constexpr std::size_t deepest = 200;

bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; }

}  // namespace

Xml::Xml(const char* text, std::size_t size) : text_(text), size_(size) {
  if (size > 0 && std::memchr(text, 0, size)) throw XmlFault("it holds a byte that XML does not have");
}

void Xml::decode(std::size_t from, std::size_t to, std::string& out) const {
  while (from < to) {
    const char* mark = static_cast<const char*>(std::memchr(text_ + from, '&', to - from));
    const std::size_t at = mark ? static_cast<std::size_t>(mark - text_) : to;
    out.append(text_ + from, at - from);
    if (!mark) return;
    const char* stop = static_cast<const char*>(std::memchr(mark, ';', std::min<std::size_t>(to - at, 12)));
    if (!stop) throw XmlFault("an entity without an end");
    const std::string name(mark + 1, stop);
    if (name == "amp") out += '&';
    else if (name == "lt") out += '<';
    else if (name == "gt") out += '>';
    else if (name == "quot") out += '"';
    else if (name == "apos") out += '\'';
    else if (name.size() > 1 && name[0] == '#') {
      const bool hex = name[1] == 'x';
      char* end = nullptr;
      const unsigned long x = std::strtoul(name.c_str() + (hex ? 2 : 1), &end, hex ? 16 : 10);
      if (*end != 0 || x == 0 || x > 0x10ffff || (x >= 0xd800 && x < 0xe000)) throw XmlFault("a character that there is not");
      append_utf8(out, x);
    } else throw XmlFault("an entity that is not allowed");
    from = static_cast<std::size_t>(stop - text_) + 1;
  }
}

bool Xml::is(const char* name) const {
  const std::size_t colon = name_.find(':');
  return name_.compare(colon == std::string::npos ? 0 : colon + 1, std::string::npos, name) == 0;
}

Xml::Event Xml::next() {
  if (closes_itself_) {
    closes_itself_ = false;
    --depth_;
    return Event::close;
  }
  for (;;) {
    const char* mark = at_ < size_ ? static_cast<const char*>(std::memchr(text_ + at_, '<', size_ - at_)) : nullptr;
    if (!mark) {
      if (depth_ > 0) throw XmlFault("it ends before its last tag does");
      return Event::end;
    }
    const std::size_t open = static_cast<std::size_t>(mark - text_);
    if (depth_ > 0) decode(at_, open, between_);
    const auto past = [&](const char* stop) {
      const std::size_t length = std::strlen(stop);
      for (std::size_t i = open; i + length <= size_; ++i) if (std::memcmp(text_ + i, stop, length) == 0) return i + length;
      throw XmlFault("a tag without an end");
    };
    const auto begins = [&](const char* what) {
      const std::size_t length = std::strlen(what);
      return open + length <= size_ && std::memcmp(mark, what, length) == 0;
    };
    if (begins("<?")) {
      at_ = past("?>");
      continue;
    }
    if (begins("<!--")) {
      at_ = past("-->");
      continue;
    }
    if (begins("<![CDATA[")) {
      at_ = past("]]>");
      if (depth_ > 0) between_.append(mark + 9, at_ - open - 12);
      continue;
    }
    if (begins("<!")) throw XmlFault("it declares a document type, which is not allowed");
    tag_ = open;
    const bool closes = begins("</");
    std::size_t i = open + (closes ? 2 : 1);
    const std::size_t first = i;
    while (i < size_ && !is_blank(text_[i]) && text_[i] != '>' && text_[i] != '/') ++i;
    if (i == first) throw XmlFault("a tag without a name");
    name_.assign(text_ + first, i - first);
    attributes_ = i;
    char quote = 0;
    for (; i < size_ && (quote || text_[i] != '>'); ++i) {
      if (quote ? text_[i] == quote : text_[i] == '"' || text_[i] == '\'') quote = quote ? 0 : text_[i];
    }
    if (i >= size_) throw XmlFault("a tag without an end");
    at_ = i + 1;
    attributes_end_ = i;
    if (closes) {
      if (depth_ == 0) throw XmlFault("a tag is closed that was not opened");
      --depth_;
      return Event::close;
    }
    if (++depth_ > deepest) throw XmlFault("its tags are nested too deep");
    closes_itself_ = text_[i - 1] == '/';
    return Event::open;
  }
}

bool Xml::attribute(const char* name, std::string& out) const {
  const std::size_t length = std::strlen(name);
  for (std::size_t i = attributes_; i < attributes_end_;) {
    while (i < attributes_end_ && is_blank(text_[i])) ++i;
    const std::size_t first = i;
    while (i < attributes_end_ && text_[i] != '=' && !is_blank(text_[i])) ++i;
    const std::size_t end = i;
    while (i < attributes_end_ && text_[i] != '"' && text_[i] != '\'') ++i;
    if (i >= attributes_end_) return false;
    const char quote = text_[i++];
    const std::size_t from = i;
    while (i < attributes_end_ && text_[i] != quote) ++i;
    if (end - first == length && std::memcmp(text_ + first, name, length) == 0) {
      out.clear();
      decode(from, i, out);
      return true;
    }
    ++i;
  }
  return false;
}

std::string Xml::attribute(const char* name) const {
  std::string out;
  attribute(name, out);
  return out;
}

void Xml::skip() {
  const std::size_t outside = depth_ - 1;
  while (depth_ > outside) if (next() == Event::end) return;
}

std::vector<XmlElement> xml_elements(const char* text, std::size_t size, const std::vector<std::string>& names) {
  Xml xml(text, size);
  std::vector<XmlElement> out;
  std::vector<std::size_t> standing;   // elements that are open: of the list, counted from 1, or 0
  for (Xml::Event event = xml.next(); event != Xml::Event::end; event = xml.next()) {
    xml.forget_text();
    if (event == Xml::Event::close) {
      const std::size_t at = standing.back();
      standing.pop_back();
      if (at == 0) continue;
      out[at - 1].close = xml.tag_start();
      out[at - 1].closed = xml.tag_end();
      continue;
    }
    if (std::none_of(names.begin(), names.end(), [&](const std::string& one) { return xml.is(one.c_str()); })) {
      standing.push_back(0);
      continue;
    }
    const auto around = std::find_if(standing.rbegin(), standing.rend(), [](std::size_t at) { return at != 0; });
    XmlElement one;
    one.name = xml.full_name();
    one.depth = static_cast<int>(xml.depth());
    one.within = around == standing.rend() ? 0 : *around;
    one.open = xml.tag_start();
    one.opened = xml.tag_end();
    out.push_back(one);
    standing.push_back(out.size());
  }
  return out;
}

}  // namespace ensayo
