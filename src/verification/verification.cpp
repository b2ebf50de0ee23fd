#include "verification/verification.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.hpp"
#include "mesh/plane/generate.hpp"
#include "mesh/plane/quadrilaterals/subdivide.hpp"
#include "part/checks/check_study.hpp"
#include "quality/make_mesh.hpp"
#include "quantities/evaluate.hpp"
#include "recovery/estimate.hpp"
#include "recovery/recover.hpp"
#include "series/run.hpp"
#include "sizes/part_sizes.hpp"
#include "solve/solve.hpp"
#include "verification/manufactured.hpp"
#include "verification/norms.hpp"

namespace dotsift {

namespace {

// Wanted of patch tests, relative to the largest component.
constexpr double exactness = 1e-10;
// Wanted of observed orders.
constexpr double order_tolerance = 0.05;
// Recovered fields are wanted to gain this much over the elements' own order.
// Round nodes whose elements are not alike, and on the boundary, half an order is lost of a whole one.
constexpr double wanted_gain = 0.5;

struct Elements {
    const char* name;
    const char* mesh;  ///< table of the study
    int degree;
    bool mixed = false;  ///< triangles in one half, quadrilaterals in the other
    [[nodiscard]] std::string text() const { return (mixed ? two_rectangles() : one_square()) + mesh; }
};

constexpr std::array all_elements{
    Elements{"triangles, 3 nodes", "[mesh]\nelements = \"triangles\"\norder = 1\n", 1},
    Elements{"triangles, 6 nodes", "[mesh]\nelements = \"triangles\"\norder = 2\n", 2},
    Elements{"quadrilaterals, 4 nodes", "[mesh]\nelements = \"quadrilaterals\"\norder = 1\n", 1},
    Elements{"quadrilaterals, 9 nodes", "[mesh]\nelements = \"quadrilaterals\"\norder = 2\n", 2},
    Elements{"mixed, 3 and 4 nodes", "[mesh]\norder = 1\n[mesh.region.two]\nelements = \"quadrilaterals\"\n", 1, true},
    Elements{"mixed, 6 and 9 nodes", "[mesh]\norder = 2\n[mesh.region.two]\nelements = \"quadrilaterals\"\n", 2, true},
};

StudyAndPart opened(const std::string& text) {
    Problems problems("code verification");
    StudyAndPart both = open_study("code verification", text, problems);
    problems.throw_if_any();
    return both;
}

Mesh mesh_of(const StudyAndPart& both) {
    MeshingLog log;
    return make_mesh(both.study, both.part, sizing_of(both.part, both.study.sizes, both.study.path), log).mesh;
}

class Verifier {
  public:
    Verifier(const std::vector<std::string>& only, const std::function<void(const std::string&)>& progress)
        : only_(only), progress_(progress) {}

    CodeVerification run() {
        exact_answers();
        orders();
        answers();
        return std::move(out_);
    }

  private:
    [[nodiscard]] bool wanted(CodeCheck::Kind kind, const std::string& problem, const std::string& elements) const {
        const std::string all = fmt::format("{} {} {}", name_of(kind), problem, elements);
        const bool any = only_.empty() || std::any_of(only_.begin(), only_.end(), [&](const std::string& word) {
                             return all.find(word) != std::string::npos;
                         });
        if (any) progress_(fmt::format("{}: {}{}{}", name_of(kind), problem, elements.empty() ? "" : ", ", elements));
        return any;
    }

    void exact_answers() {
        const auto check = [&](const std::string& problem, const Manufactured& known) {
            for (const auto& elements : all_elements) {
                if (!wanted(CodeCheck::Kind::exactness, problem, elements.name)) continue;
                const StudyAndPart both = opened(known.text + elements.text() + "[size]\nglobal = 0.3\n");
                const Mesh mesh = mesh_of(both);
                const Laws laws = laws_of(both.study, mesh.region_names);
                const ErrorNorms norms = error_norms(mesh, both.study, laws, solve_study(mesh, both.study), known);
                CodeCheck c;
                c.problem = problem;
                c.elements = elements.name;
                c.what = "largest error, of the largest stress or flux";
                c.found = norms.largest;
                c.tolerance = exactness;
                c.source = "Irons & Razzaque 1972, patch test";
                c.passed = c.found <= exactness;
                out_.checks.push_back(c);
            }
        };
        check("plane stress", linear_elasticity(Plane::stress));
        check("plane strain", linear_elasticity(Plane::strain));
        check("generalised plane strain", linear_elasticity(Plane::generalised_strain));
        check("axisymmetric", linear_elasticity(Plane::axisymmetric));
        check("conduction", linear_conduction(false));
        check("axisymmetric conduction", linear_conduction(true));
    }

    enum class Ask { every_kind, quadratic };
    /// Errors on nested meshes.
    void order_of(const std::string& problem, const Manufactured& known, Ask ask = Ask::every_kind) {
        for (const auto& elements : all_elements) {
            if (ask == Ask::quadratic && elements.degree == 1) continue;
            if (!wanted(CodeCheck::Kind::order, problem, elements.name)) continue;
            // Nearly incompressible ones come to their order later.
            const bool late = ask == Ask::quadratic;
            const StudyAndPart both =
                opened(known.text + elements.text() + fmt::format("[size]\nglobal = {}\n", late ? 0.2 : 0.25));
            Mesh mesh = mesh_of(both);
            OrderCurve curve;
            curve.problem = problem;
            curve.elements = elements.name;
            curve.degree = elements.degree;
            const int levels = elements.degree == 1 || late ? 5 : 4;
            for (int level = 0; level < levels; ++level) {
                if (level > 0) mesh = subdivide(mesh);
                const Laws laws = laws_of(both.study, mesh.region_names);
                const ErrorNorms n = error_norms(mesh, both.study, laws, solve_study(mesh, both.study), known);
                curve.h.push_back(std::sqrt(mesh.measure() / static_cast<double>(mesh.element_count())));
                curve.energy.push_back(n.energy);
                curve.l2.push_back(n.l2);
                curve.recovered.push_back(n.recovered);
            }
            const std::string source = "Strang & Fix 1973, An Analysis of the Finite Element Method";
            add_order(curve, "order in the energy norm", curve.energy, elements.degree, false, source);
            add_order(curve, "order in the L2 norm", curve.l2, elements.degree + 1, late, source);
            add_order(curve, "order of the recovered field", curve.recovered,
                      elements.degree + (late ? 0 : wanted_gain), true,
                      "Zienkiewicz & Zhu 1992, superconvergent patch recovery");
            out_.curves.push_back(std::move(curve));
        }
    }

    void orders() {
        using Material = ManufacturedMaterial;
        order_of("plane stress, isotropic", manufactured_elasticity(Plane::stress, Material::isotropic));
        order_of("plane stress, orthotropic", manufactured_elasticity(Plane::stress, Material::orthotropic));
        order_of("plane strain, isotropic", manufactured_elasticity(Plane::strain, Material::isotropic));
        order_of("plane strain, orthotropic", manufactured_elasticity(Plane::strain, Material::orthotropic));
        order_of("plane strain, nearly incompressible",
                 manufactured_elasticity(Plane::strain, Material::nearly_incompressible), Ask::quadratic);
        order_of("generalised plane strain, isotropic",
                 manufactured_elasticity(Plane::generalised_strain, Material::isotropic));
        order_of("generalised plane strain, orthotropic",
                 manufactured_elasticity(Plane::generalised_strain, Material::orthotropic));
        order_of("generalised plane strain, nearly incompressible",
                 manufactured_elasticity(Plane::generalised_strain, Material::nearly_incompressible), Ask::quadratic);
        order_of("axisymmetric, isotropic", manufactured_elasticity(Plane::axisymmetric, Material::isotropic));
        order_of("axisymmetric, orthotropic", manufactured_elasticity(Plane::axisymmetric, Material::orthotropic));
        order_of("conduction, isotropic", manufactured_conduction(false, false));
        order_of("conduction, orthotropic", manufactured_conduction(false, true));
        order_of("axisymmetric conduction", manufactured_conduction(true, false));
        singular_order();
    }

    /// At a re-entrant corner the order is the exponent of the corner, whatever the elements.
    void singular_order() {
        const SingularCorner corner = l_shape();
        for (const auto& elements : all_elements) {
            if (elements.mixed || !wanted(CodeCheck::Kind::order, corner.problem, elements.name)) continue;
            const StudyAndPart both = opened(corner.text + elements.mesh);
            Mesh mesh = mesh_of(both);
            OrderCurve curve;
            curve.problem = corner.problem;
            curve.elements = elements.name;
            curve.degree = elements.degree;
            for (int level = 0; level < 5; ++level) {
                if (level > 0) mesh = subdivide(mesh);
                const Laws laws = laws_of(both.study, mesh.region_names);
                const TrueError e = true_error(mesh, laws, solve_study(mesh, both.study), *both.study.exact_stress,
                                               both.study.path.string());
                curve.h.push_back(std::sqrt(mesh.measure() / static_cast<double>(mesh.element_count())));
                curve.energy.push_back(e.relative());
            }
            add_order(curve, "order in the energy norm", curve.energy, corner.exponent, false, corner.source);
            out_.curves.push_back(std::move(curve));
        }
    }

    void add_order(const OrderCurve& curve, const std::string& what, const std::vector<double>& error, double theory,
                   bool at_least, const std::string& source) {
        const std::size_t n = error.size();
        CodeCheck c;
        c.kind = CodeCheck::Kind::order;
        c.problem = curve.problem;
        c.elements = curve.elements;
        c.what = what;
        c.found = std::log(error[n - 2] / error[n - 1]) / std::log(curve.h[n - 2] / curve.h[n - 1]);
        c.known = theory;
        c.tolerance = order_tolerance;
        c.at_least = at_least;
        c.source = source;
        c.passed = c.found >= theory - order_tolerance && (at_least || c.found <= theory + order_tolerance);
        out_.checks.push_back(c);
    }

    void answers() {
        for (const auto& problem : known_answers()) {
            if (!wanted(CodeCheck::Kind::known_answer, problem.problem, "")) continue;
            const StudyAndPart both = opened(problem.text);
            if (both.solid) {
                const Level level = solved_solid(problem.text);
                judge(problem, level.quantities, level.mesh.elements);
                continue;
            }
            const Mesh mesh = mesh_of(both);
            const Laws laws = laws_of(both.study, mesh.region_names);
            std::vector<CaseFields> cases;
            for (auto& s : solve_cases(mesh, both.study)) {
                CaseFields f;
                if (both.study.elastic()) f.stress = recover_stress(mesh, both.study, laws, s);
                if (both.study.conducts()) f.flux = recover_flux(mesh, both.study, laws, s);
                f.solution = std::move(s);
                cases.push_back(std::move(f));
            }
            judge(problem, evaluate_quantities(both.study, mesh, laws, cases), mesh.element_count());
        }
    }

    /// One level of a study of a solid.
    static Level solved_solid(const std::string& text) {
        struct Silent : StudyObserver {};
        Silent silent;
        const StudyAndPart both = opened(text + "[series.once]\nkind = \"uniform\"\nmost_levels = 1\n");
        return run_study(both, silent).series.front().levels.front();
    }

    void judge(const KnownAnswer& problem, const std::vector<QuantityValue>& values, std::size_t elements) {
        for (const auto& a : problem.answers) {
            const auto found = std::find_if(values.begin(), values.end(),
                                            [&](const QuantityValue& v) { return v.name == a.quantity; });
            if (found == values.end())
                throw InputError(fmt::format("code verification: no quantity \"{}\"", a.quantity));
            CodeCheck c;
            c.kind = CodeCheck::Kind::known_answer;
            c.problem = problem.problem;
            c.elements = fmt::format("{} elements", elements);
            c.what = a.quantity;
            c.found = found->value;
            c.known = a.value;
            c.tolerance = a.tolerance;
            c.source = problem.source;
            c.passed = std::fabs(c.found - c.known) <= a.tolerance * std::fabs(c.known);
            out_.checks.push_back(c);
        }
    }

    const std::vector<std::string>& only_;
    const std::function<void(const std::string&)>& progress_;
    CodeVerification out_;
};

}  // namespace

const char* name_of(CodeCheck::Kind kind) {
    constexpr std::array names{"patch test", "order", "known answer"};
    return names[static_cast<std::size_t>(kind)];
}

bool CodeVerification::passed() const {
    return std::all_of(checks.begin(), checks.end(), [](const CodeCheck& c) { return c.passed; });
}

CodeVerification verify_code(const std::vector<std::string>& only,
                             const std::function<void(const std::string&)>& progress) {
    return Verifier(only, progress).run();
}

}  // namespace dotsift
