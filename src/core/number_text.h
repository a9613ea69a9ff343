// Doubles as text and back without loss, whatever the locale's decimal sign is for people.
#ifndef ENSAYO_CORE_NUMBER_TEXT_H
#define ENSAYO_CORE_NUMBER_TEXT_H

#include <string>

namespace ensayo {

// The shortest text that reads back as the same double; "NaN", "Inf" and "-Inf" for the others.
std::string number_text(double x);
void append_number(std::string& text, double x);

// The nearest double to a number's text; false where the text is not a number and nothing else.
bool read_number_text(const char* text, double& out);

}  // namespace ensayo

#endif
