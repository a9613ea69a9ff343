// The door to parts of XML whose places are asked for, so that something can be put into them.
#include <Rcpp.h>

#include <algorithm>
#include <string>
#include <vector>

#include "core/xml.h"

// Elements with one of some names, whatever stands before the colon, in the order in which they open: `name` as it is written, `depth`
// (1 for the outermost), `within` (of the element of the list that it stands in, by number, 0 for none), and bytes: of the tag
// that opens it, from `open` to `opened`, and of the one that closes it, from `close` to `closed`, the same for one that closes itself.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_xml_elements(Rcpp::RawVector part, Rcpp::CharacterVector names) {
  const char* text = reinterpret_cast<const char*>(RAW(part));
  const std::vector<std::string> asked = Rcpp::as<std::vector<std::string>>(names);
  ensayo::Xml xml(text, static_cast<std::size_t>(part.size()));
  std::vector<std::string> name;
  std::vector<int> depth, within;
  std::vector<double> open, opened, close, closed;
  std::vector<std::size_t> standing;  // elements of the list that are open, and -1 for others
  constexpr std::size_t other = static_cast<std::size_t>(-1);
  const auto place = [](std::size_t at) { return static_cast<double>(at); };
  for (ensayo::Xml::Event event = xml.next(); event != ensayo::Xml::Event::end; event = xml.next()) {
    xml.forget_text();
    if (event == ensayo::Xml::Event::close) {
      const std::size_t at = standing.back();
      standing.pop_back();
      if (at == other) continue;
      close[at] = place(xml.tag_start());
      closed[at] = place(xml.tag_end());
      continue;
    }
    const bool wanted = std::any_of(asked.begin(), asked.end(), [&](const std::string& one) { return xml.is(one.c_str()); });
    if (wanted) {
      const auto around = std::find_if(standing.rbegin(), standing.rend(), [](std::size_t at) { return at != other; });
      name.push_back(xml.full_name());
      depth.push_back(static_cast<int>(xml.depth()));
      within.push_back(around == standing.rend() ? 0 : static_cast<int>(*around) + 1);
      open.push_back(place(xml.tag_start()));
      opened.push_back(place(xml.tag_end()));
      close.push_back(0);
      closed.push_back(0);
    }
    standing.push_back(wanted ? name.size() - 1 : other);
  }
  return Rcpp::List::create(Rcpp::Named("name") = name, Rcpp::Named("depth") = depth, Rcpp::Named("within") = within, Rcpp::Named("open") = open,
    Rcpp::Named("opened") = opened, Rcpp::Named("close") = close, Rcpp::Named("closed") = closed);
}
