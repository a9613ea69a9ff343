// Doubles as text and back without loss, whatever the locale's decimal sign is for people.
#ifndef ENSAYO_CORE_NUMBER_TEXT_H
#define ENSAYO_CORE_NUMBER_TEXT_H

#include <string>

namespace ensayo {

// The text with the fewest of 15, 16 or 17 significant digits that reads back as the same double.
std::string number_text(double x);

// The nearest double to a number's text; false where the text is not a number and nothing else.
bool read_number_text(const char* text, double& out);

}  // namespace ensayo

#endif
