#pragma once
// The program's own code verification: exact answers, observed orders, known results.

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace dotsift {

/// One check: what was found, what is known, and whether they agree.
struct CodeCheck {
    enum class Kind { exactness, order, known_answer };
    Kind kind = Kind::exactness;
    std::string problem;   ///< such as "plane strain, isotropic"
    std::string elements;  ///< such as "triangles, 6 nodes"
    std::string what;      ///< such as "order in the energy norm"
    std::string unit;
    double found = 0, known = 0;
    double tolerance = 0;   ///< exactness: of `found` itself; orders: absolute; answers: relative
    bool at_least = false;  ///< orders: a higher one is as good
    std::string source;     ///< of the known value
    bool passed = false;
};

/// The errors on the meshes of one order check, for charts.
struct OrderCurve {
    std::string problem, elements;
    std::vector<double> h, energy, l2, recovered;
    int degree = 1;
};

struct CodeVerification {
    std::vector<CodeCheck> checks;
    std::vector<OrderCurve> curves;
    [[nodiscard]] bool passed() const;
};

/// Runs the checks whose problem, elements or kind contain one of the words (none: all). `progress` is told each
/// problem before it is worked on.
CodeVerification verify_code(const std::vector<std::string>& only,
                             const std::function<void(const std::string&)>& progress);

/// A problem with a known answer.
struct KnownAnswer {
    std::string problem, source;
    std::string text;  ///< of the study
    struct Answer {
        std::string quantity;
        double value, tolerance;  ///< relative
    };
    std::vector<Answer> answers;
};
std::vector<KnownAnswer> known_answers();

/// A domain with a re-entrant corner, loaded by the exact field of that corner.
struct SingularCorner {
    std::string problem, source, text;
    double exponent;
};
SingularCorner l_shape();

const char* name_of(CodeCheck::Kind kind);

}  // namespace dotsift
