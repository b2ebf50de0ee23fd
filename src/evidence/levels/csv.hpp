#pragma once
// Fields of comma-separated values (RFC 4180).

#include <string>

namespace dotsift {

/// Quoted where it must be.
std::string csv_field(const std::string& text);
/// All digits; empty if it is not finite.
std::string csv_number(double v);

}  // namespace dotsift
