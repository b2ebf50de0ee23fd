#pragma once
// Studies for unit tests, made from text.

#include <string>

#include "part/part.hpp"
#include "study/study.hpp"

namespace dotsift::test {

/// Whether a text holds another one.
bool has(const std::string& text, const std::string& part);

/// The length of all edges of a boundary.
double length_named(const Part& part, const std::string& name);

/// Everything but [part] and its shapes: a steel material, a support and a load on the names "left" and "right".
std::string rest_of_study();

/// A size rule on boundaries, regions or points of this name.
LocalSize length_on(const std::string& name, double size);

/// Reads a study that must be without faults.
Study study_from(const std::string& text);

/// The faults of a study's text, part and names included, as one text.
std::string faults_of(const std::string& text);
std::string warnings_of(const std::string& text);

/// The part of a study text that consists of shapes only.
Part part_from(const std::string& shapes);

/// A study on a unit square with sides left, right, top and bottom; `body` follows.
Study square_study(const std::string& body);

}  // namespace dotsift::test
