// What recovered fields are fitted on, and with.

#include "recovery/fit/node_patch.hpp"

#include <doctest/doctest.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <random>
#include <set>

#include "mesh/plane/generate.hpp"
#include "recovery/fit/normal_equations.hpp"
#include "recovery/fit/polynomial_equations.hpp"
#include "recovery/fit/polynomials.hpp"
#include "sizes/part_sizes.hpp"
#include "support/studies.hpp"

using namespace dotsift;
using namespace dotsift::test;

namespace {

using Set = std::set<std::int32_t>;

Set set_of(const std::vector<std::int32_t>& list) {
    const Set out(list.begin(), list.end());
    CHECK(out.size() == list.size());  // each once
    return out;
}

Set slots_of(const Mesh& mesh, const Set& elements) {
    Set out;
    for (const auto e : elements) {
        const auto list = mesh.slots_of(static_cast<std::size_t>(e));
        out.insert(list.begin(), list.end());
    }
    return out;
}

/// A plate of two regions with a hole in one of them.
const std::string plate =
    "[[part.shape]]\nadd = \"rectangle\"\nsize = [3, 2]\nregion = \"one\"\n"
    "[[part.shape]]\nadd = \"rectangle\"\ncorner = [3, 0]\nsize = [2, 2]\nregion = \"two\"\n"
    "[[part.shape]]\ncut = \"circle\"\ncentre = [1, 1]\nradius = 0.3\n";

/// A wheel of triangles round one node, the first and the last side of which are a slit's two faces.
Mesh slit_wheel() {
    Mesh mesh;
    constexpr int spokes = 7;
    mesh.nodes.push_back({{0, 0}});
    for (int k = 0; k < spokes; ++k) {
        const double angle = 2 * 3.141592653589793 * k / (spokes - 1);
        mesh.nodes.push_back({{std::cos(angle), std::sin(angle)}});
    }
    mesh.first.push_back(0);
    for (int k = 1; k < spokes; ++k) {
        mesh.kinds.push_back(ElementKind::triangle3);
        for (const int n : {0, k, k + 1}) mesh.connectivity.push_back(n);
        mesh.first.push_back(static_cast<std::int64_t>(mesh.connectivity.size()));
        mesh.region.push_back(0);
        mesh.row.push_back(0);
    }
    mesh.region_names = {"all"};
    connect(mesh);
    return mesh;
}

}  // namespace

TEST_SUITE_BEGIN("recovery");

TEST_CASE("a patch has the elements of one region round a corner, then those round its corners") {
    const Part part = part_from(plate);
    for (const auto shape : {ElementShape::triangles, ElementShape::quadrilaterals}) {
        for (const int order : {1, 2}) {
            MeshSpec spec;
            spec.shape = shape;
            spec.order = order;
            SizeSpec sizes;
            sizes.global = 0.35;
            const Mesh mesh = generate(part, sizing_of(part, sizes, {}), 100000, spec);
            const SizedCornerElements around(mesh);
            NodePatch patch(around);
            int closed = 0, open = 0;
            for (std::int32_t s = 0; s < static_cast<std::int32_t>(mesh.node_of_slot.size()); ++s) {
                Set elements, all_of_region;
                double size = 0;
                std::int32_t region = -1;
                for (std::size_t e = 0; e < mesh.element_count(); ++e) {
                    const auto corners = around.corners_of(e);
                    if (std::find(corners.begin(), corners.end(), s) == corners.end()) continue;
                    elements.insert(static_cast<std::int32_t>(e));
                    region = mesh.region[e];
                    size += mesh.size_of(e);
                }
                const auto own = around.of(s);
                CHECK(Set(own.begin(), own.end()) == elements);
                if (elements.empty()) continue;
                patch.begin(s);
                CHECK(set_of(patch.elements()) == elements);
                CHECK(set_of(patch.slots()) == slots_of(mesh, elements));
                CHECK(patch.mean_size() == doctest::Approx(size / static_cast<double>(elements.size())));
                // Sides at the corner that only one of its elements has make it open.
                std::multiset<std::int32_t> ends;
                for (const auto e : elements) {
                    const auto corners = around.corners_of(static_cast<std::size_t>(e));
                    const auto at =
                        static_cast<std::size_t>(std::find(corners.begin(), corners.end(), s) - corners.begin());
                    ends.insert(corners[(at + 1) % corners.size()]);
                    ends.insert(corners[(at + corners.size() - 1) % corners.size()]);
                }
                const bool all_twice =
                    std::all_of(ends.begin(), ends.end(), [&](std::int32_t n) { return ends.count(n) == 2; });
                CHECK(patch.closed() == all_twice);
                ++(all_twice ? closed : open);
                if (all_twice) CHECK(patch.angle() == doctest::Approx(2 * 3.141592653589793));
                // Rings, until the region has no more
                for (bool more = true; more;) {
                    Set next = elements;
                    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
                        if (mesh.region[e] != region) continue;
                        all_of_region.insert(static_cast<std::int32_t>(e));
                        const Set before = slots_of(mesh, elements);
                        const auto corners = around.corners_of(e);
                        if (std::any_of(corners.begin(), corners.end(),
                                        [&](std::int32_t c) { return before.count(c) > 0; }))
                            next.insert(static_cast<std::int32_t>(e));
                    }
                    more = patch.grow();
                    CHECK(more == (next != elements));
                    elements = next;
                    CHECK(set_of(patch.elements()) == elements);
                    CHECK(set_of(patch.slots()) == slots_of(mesh, elements));
                    if (s % 7 != 0) break;  // the others for one ring
                }
                if (s % 7 == 0) CHECK(elements == all_of_region);
            }
            CHECK(closed > 20);
            CHECK(open > 20);
        }
    }
}

TEST_CASE("the faces of a slit do not close the ring round its tip") {
    const Mesh mesh = slit_wheel();
    const SizedCornerElements around(mesh);
    NodePatch patch(around);
    patch.begin(0);
    CHECK_FALSE(patch.closed());
    CHECK(patch.angle() == doctest::Approx(2 * 3.141592653589793));
    CHECK(patch.slots().size() == mesh.nodes.size());
}

TEST_CASE("patches larger than the table of numbers they met") {
    MetNumbers<8> met;
    std::vector<std::int32_t> first;
    for (std::int32_t n = 0; n < 100; ++n) first.push_back(256 * n);  // of one place in the table
    met.begin(first);
    for (std::int32_t n = 0; n < 1000; ++n) {
        met.add(n);
        met.add(256 * (n % 200));
    }
    Set wanted;
    for (std::int32_t n = 0; n < 1000; ++n) wanted.insert({n, 256 * (n % 200)});
    CHECK(set_of(met.all()) == wanted);
}

TEST_CASE("normal equations of a fixed size agree with a decomposition of the rows") {
    std::mt19937 random(5);
    std::uniform_real_distribution<double> value(-1, 1);
    for (const int rows : {9, 10, 11, 12, 40}) {
        NormalEquations<7, 2> equations;
        Eigen::MatrixXd a(rows, 7), b(rows, 2);
        for (int r = 0; r < rows; ++r) {
            NormalEquations<7, 2>::Row row;
            const double weight = 1.5 + value(random);
            for (int c = 0; c < 9; ++c) {
                row[static_cast<std::size_t>(c)] = value(random);
                (c < 7 ? a(r, c) : b(r, c - 7)) = std::sqrt(weight) * row[static_cast<std::size_t>(c)];
            }
            equations.add(row, weight);
        }
        const Eigen::MatrixXd wanted = a.colPivHouseholderQr().solve(b);
        const auto x = equations.solve(1e-16);
        for (int s = 0; s < 2; ++s)
            for (int k = 0; k < 7; ++k)
                CHECK(x[static_cast<std::size_t>(s)][static_cast<std::size_t>(k)] ==
                      doctest::Approx(wanted(k, s)).epsilon(1e-9));
    }
}

TEST_CASE("what nothing determines stays zero") {
    NormalEquations<3, 1> equations;  // only the sum of the first two is known
    for (int k = 0; k < 5; ++k) equations.add({1, 1, 0, 6}, 1);
    const auto x = equations.solve(1e-14)[0];
    CHECK(x[0] == doctest::Approx(3).epsilon(1e-2));
    CHECK(x[1] == doctest::Approx(3).epsilon(1e-2));
    CHECK(x[2] == 0);
}

TEST_CASE("a patch's polynomial, term by term") {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> value(-1, 1);
    for (const int degree : {0, 1, 2, 3, 4}) {
        PatchPolynomial<4> p{{{0.3, -0.2}}, 0.7, Monomials::terms(degree), {}};
        for (int k = 0; k < p.terms; ++k)
            for (auto& f : p.factors[static_cast<std::size_t>(k)]) f = value(random);
        const Vec2 at{{value(random), value(random)}};
        const Monomials m(4, at, p.centre, p.scale);
        for (std::size_t f = 0; f < 4; ++f) {
            double sum = 0;
            for (std::size_t k = 0; k < static_cast<std::size_t>(p.terms); ++k) sum += m.value[k] * p.factors[k][f];
            CHECK(p.at(at)[f] == doctest::Approx(sum).epsilon(1e-13));
        }
    }
}

TEST_CASE("equations that are polynomials of the place are few, with the same sum of squares") {
    constexpr int unknowns = 8, parts = Monomials::terms(2), both = 2;
    std::mt19937 numbers(11);
    std::uniform_real_distribution<double> value(-1, 1);
    enum class Places { anywhere, thin, on_a_line, two, none };
    for (const auto places : {Places::anywhere, Places::thin, Places::on_a_line, Places::two, Places::none}) {
        CAPTURE(static_cast<int>(places));
        PolynomialEquations<unknowns, parts, both> equations;
        for (int c = 0; c < both; ++c)
            for (int k = 0; k < parts; ++k)
                for (auto& v : equations.part(c, k)) v = value(numbers);
        // The normal equations of all of them, written out, and of those that stand for them
        Eigen::MatrixXd direct = Eigen::MatrixXd::Zero(unknowns, unknowns + 1), few = direct;
        const auto add = [](Eigen::MatrixXd& to, const auto& equation, double wanted, double weight) {
            const Eigen::Map<const Eigen::VectorXd> row(equation.data(), unknowns);
            to.leftCols(unknowns) += weight * row * row.transpose();
            to.col(unknowns) += weight * wanted * row;
        };
        const int count = places == Places::none ? 0 : places == Places::two ? 2 : 25;
        for (int n = 0; n < count; ++n) {
            const double x = value(numbers);
            const Vec2 p{{x, places == Places::on_a_line ? 0.3 - 0.7 * x
                                                         : value(numbers) * (places == Places::thin ? 1e-5 : 1)}};
            const auto m = monomial_values<parts>(p, {}, 1);
            const double weight = 0.5 + std::fabs(value(numbers));
            const std::array<double, both> wanted{value(numbers), value(numbers)};
            equations.ask(m, weight, wanted);
            for (int c = 0; c < both; ++c) add(direct, equations.at(c, m), wanted[static_cast<std::size_t>(c)], weight);
        }
        int needed = 0;
        equations.each([&](const auto& equation, double wanted) {
            add(few, equation, wanted, 1);
            ++needed;
        });
        CHECK((few - direct).norm() <= 1e-12 * direct.norm());
        CHECK(needed == both * (places == Places::on_a_line ? 3 : std::min(parts, count)));
    }
}

TEST_SUITE_END();
