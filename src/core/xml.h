// XML, one tag after the other. No entities but the five of the standard and numbers of characters, no document types.
#ifndef ENSAYO_CORE_XML_H
#define ENSAYO_CORE_XML_H

#include <cstddef>
#include <stdexcept>
#include <string>
#include <vector>

namespace ensayo {

// What is wrong with a file that cannot be read.
class XmlFault : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

class Xml {
 public:
  Xml(const char* text, std::size_t size);

  enum class Event { open, close, end };
  // The next tag; what stands between is added to `text()` until it is taken. A tag that closes itself opens and closes.
  Event next();
  // The tag's name, with and without what stands before its colon.
  const std::string& full_name() const { return name_; }
  bool is(const char* name) const;
  // An attribute of the tag that was opened last, by its name as it is written; false where it is not there.
  bool attribute(const char* name, std::string& out) const;
  std::string attribute(const char* name) const;
  // The text since the last tag that was asked for.
  const std::string& text() const { return between_; }
  void forget_text() { between_.clear(); }
  // Where the last tag begins and ends, in bytes of the text.
  std::size_t tag_start() const { return tag_; }
  std::size_t tag_end() const { return at_; }
  // Past the end of the tag that was opened last, with all that it holds.
  void skip();
  std::size_t depth() const { return depth_; }

 private:
  void decode(std::size_t from, std::size_t to, std::string& out) const;
  const char* text_;
  std::size_t size_, at_ = 0, tag_ = 0, depth_ = 0;
  std::string name_, between_;
  std::size_t attributes_ = 0, attributes_end_ = 0;
  bool closes_itself_ = false;
};

// An element that is asked for, and where it stands, in bytes of the text: the tag that opens it from `open` to `opened`, the one that
// closes it from `close` to `closed`, the same for one that closes itself.
struct XmlElement {
  std::string name;                 // as it is written
  int depth = 0;                    // 1 for the outermost
  std::size_t within = 0;           // the one of the list that it stands in, counted from 1; 0 for none
  std::size_t open = 0, opened = 0, close = 0, closed = 0;
};

// Elements with one of some names, whatever stands before the colon, in the order in which they open.
std::vector<XmlElement> xml_elements(const char* text, std::size_t size, const std::vector<std::string>& names);

}  // namespace ensayo

#endif
