#pragma once
// Families of problems whose quantities are known in closed form: the battery by which intervals are judged.

#include <map>
#include <string>
#include <utility>
#include <vector>

#include "exact_field.hpp"
#include "part/checks/check_study.hpp"

namespace dotsift::bench {

struct Family {
    std::string name;
    std::string text;  ///< the study without [size], [mesh] and [series]
    double size = 0;   ///< of its first mesh
    FieldFormulas exact;
    std::map<std::string, double> known;  ///< quantities that the fields do not tell
    std::string local;                    ///< the boundary round which local series refine
};

std::vector<Family> stress_families();
std::vector<Family> heat_families();
std::vector<Family> revolved_families();
/// All of these, in the order of their names.
std::vector<Family> families();

/// Families are halved by a hash of their names and of this number alone; it goes up by one whenever a rule changes
/// after the published half was looked at.
inline constexpr int draw = 3;
/// True for the half on which rules and constants are chosen; figures are published for the other one.
bool chosen_half(const std::string& family);

/// A family's study, with more behind it.
StudyAndPart opened(const std::string& name, const std::string& text);
/// Truth of every quantity; NaN where it is not known.
std::vector<double> truths(const Family& family, const StudyAndPart& study);

/// Puts families into a list.
struct Adder {
    std::vector<Family>& list;
    void operator()(const std::string& name, double size, const FieldFormulas& exact, const std::string& text,
                    const std::string& local = {}, std::map<std::string, double> known = {}) const {
        list.push_back({name, text, size, exact, std::move(known), local});
    }
};

// Pieces of studies.
/// What a quantity is taken at, on, and the mean on.
std::string at(double x, double y, const std::string& more = "dual = true");
std::string on(const std::string& name, const std::string& more = "");
std::string mean(const std::string& name, const std::string& take = "mean");
std::string variables(const FieldFormulas& fields);
std::string steel(double youngs_modulus = 1000, double poissons_ratio = 0.3);
std::string rectangle(const std::string& verb, double x, double y, double width, double height,
                      const std::string& more);
std::string disc(const std::string& verb, double x, double y, double radius, const std::string& name);
std::string polygon(const std::string& corners, const std::string& more);
std::string quarter_ring(double inner, double outer);
std::string tractions(const std::string& on);
std::string symmetric_quarter();
std::string held_as_known(const std::string& name, const std::string& on);
std::string pinned_as_known(const Vec2& a, const Vec2& b, const FieldFormulas& fields);
/// "peak: sxx on hole", "at: ux [1, 2]", "mean: ux on rim", "path: sxx mean ends": quantities with running names.
std::string quantity(const std::string& name, const std::string& of, const std::string& more);

}  // namespace dotsift::bench
