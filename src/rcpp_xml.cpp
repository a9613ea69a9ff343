// The door to parts of XML whose places are asked for, so that something can be put into them.
#include <Rcpp.h>

#include <string>
#include <vector>

#include "core/xml.h"

// What src/core/xml.h says of elements with some names, by column; `within` is 0 for none.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_xml_elements(Rcpp::RawVector part, Rcpp::CharacterVector names) {
  const auto found = ensayo::xml_elements(reinterpret_cast<const char*>(RAW(part)), static_cast<std::size_t>(part.size()), Rcpp::as<std::vector<std::string>>(names));
  std::vector<std::string> name;
  std::vector<int> depth;
  std::vector<double> within, open, opened, close, closed;
  for (const ensayo::XmlElement& one : found) {
    name.push_back(one.name);
    depth.push_back(one.depth);
    within.push_back(static_cast<double>(one.within));
    open.push_back(static_cast<double>(one.open));
    opened.push_back(static_cast<double>(one.opened));
    close.push_back(static_cast<double>(one.close));
    closed.push_back(static_cast<double>(one.closed));
  }
  return Rcpp::List::create(Rcpp::Named("name") = name, Rcpp::Named("depth") = depth, Rcpp::Named("within") = within, Rcpp::Named("open") = open,
    Rcpp::Named("opened") = opened, Rcpp::Named("close") = close, Rcpp::Named("closed") = closed);
}
