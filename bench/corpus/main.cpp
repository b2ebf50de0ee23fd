// Many solids meshed: how many can be, and how good the meshes are.
//     build/bench/dotsift-solid-corpus corpus|rules COUNT FIRST DIRECTORY
// corpus: one size everywhere, every fifth solid from a STEP file or a file of facets that it was written to.
// rules: one to three local rules of all sorts. Each is given two minutes of processor time; studies of those that
// fail, take longer or keep no limit go to DIRECTORY. Exit status 1 if one fails or has an inverted element.

#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cmath>
#include <csignal>
#include <cstring>
#include <filesystem>
#include <map>
#include <numbers>

#include "base/errors.hpp"
#include "base/files.hpp"
#include "evidence/facet_text.hpp"
#include "mesh/elements/shape.hpp"
#include "mesh/side_meeting.hpp"
#include "mesh/solid/generate_solid.hpp"
#include "part/checks/check_study.hpp"
#include "part/solid/edge_wedges.hpp"
#include "part/solid/model_file.hpp"
#include "quality/quality.hpp"
#include "random_solids.hpp"
#include "sizes/part_sizes.hpp"

using namespace dotsift;

namespace {

constexpr double degree = std::numbers::pi / 180;
constexpr unsigned seconds_for_one = 120;
constexpr std::int64_t most_elements = 400'000;

enum class End : int { meshed, refused, failed };

/// What a child tells of its mesh; plain, for a pipe.
struct Told {
    End end = End::failed;
    double elements = 0, seconds = 0;
    double sharpest = 180, allowed = 12;  ///< dihedral angle, and what the part's own edges and corners leave of it
    double shape = 0, jacobian = 1;       ///< mean ratio, mean; the worst scaled Jacobian of the curved elements
    double fit = 0;                       ///< share of edges between 0.6 and 1.5 of the wanted length
    double surface = 60, sharper = 0;     ///< degrees of surface triangles away from corners; triangles below 25
    double volume = 0, areas = 0;         ///< off by
    char words[400] = "";
};

void say(Told& t, const std::string& words) {
    std::strncpy(t.words, words.c_str(), sizeof t.words - 1);
}

/// The sharpest edge or corner of the part, degrees.
double sharpest_of(const SolidPart& part) {
    double least = 180;
    const EdgeFaces faces(part);
    for (std::size_t e = 0; e < part.edges.size(); ++e)
        for (const double t : {0.02, 0.25, 0.5, 0.75, 0.98})
            for (const auto& w : faces.wedges(e, t)) least = std::min(least, w.angle / degree);
    return least;
}

void judge(const SolidPart& part, const SizingIn<3>& sizing, const SolidMesh& mesh, Told& t) {
    const auto values = measure_quality(mesh, {});
    const auto& of = [&](Criterion c) -> const std::vector<double>& { return values[static_cast<std::size_t>(c)]; };
    t.elements = static_cast<double>(mesh.element_count());
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        t.sharpest = std::min(t.sharpest, of(Criterion::smallest_angle)[e]);
        t.shape += of(Criterion::shape)[e] / t.elements;
        t.jacobian = std::min(t.jacobian, of(Criterion::jacobian_ratio)[e]);
    }
    t.allowed = std::min(12.0, 0.6 * sharpest_of(part));
    // Edges against the sizes in their middle.
    std::map<std::pair<std::int32_t, std::int32_t>, char> edges;
    double good = 0;
    for (std::size_t e = 0; e < mesh.element_count(); ++e) {
        const auto nodes = mesh.element(e);
        for (std::size_t i = 0; i < 4; ++i)
            for (std::size_t j = i + 1; j < 4; ++j)
                edges[{std::min(nodes[i], nodes[j]), std::max(nodes[i], nodes[j])}] = 0;
    }
    for (const auto& [pair, unused] : edges) {
        const Vec3 &a = mesh.nodes[static_cast<std::size_t>(pair.first)],
                   &b = mesh.nodes[static_cast<std::size_t>(pair.second)];
        const double ratio = distance(a, b) / sizing.field.at((a + b) * 0.5);
        good += ratio > 0.6 && ratio < 1.5 ? 1 : 0;
    }
    t.fit = good / static_cast<double>(edges.size());
    std::vector<double> areas(part.faces.size(), 0.0);
    const double near = 1e-9 * part.box.diagonal();
    for (const auto& side : mesh.boundary) {
        for (const auto& p : points_on_side(mesh, {side.element, side.side}))
            areas[static_cast<std::size_t>(side.edge)] += p.weight;
        const auto x = mesh.positions(static_cast<std::size_t>(side.element));
        std::array<Vec3, 3> c{};
        for (std::size_t k = 0, n = 0; k < 4; ++k)
            if (static_cast<int>(k) != side.side) c[n++] = x[k];
        bool at_corner = false;
        for (const Vec3& v : part.vertices)
            for (const Vec3& p : c) at_corner = at_corner || distance(v, p) <= near;
        if (at_corner) continue;
        double least = 60;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 u = c[(k + 1) % 3] - c[k], v = c[(k + 2) % 3] - c[k];
            least = std::min(least, std::acos(std::clamp(dot(u, v) / (norm(u) * norm(v)), -1.0, 1.0)) / degree);
        }
        t.surface = std::min(t.surface, least);
        t.sharper += least < 25 ? 1 : 0;
    }
    for (std::size_t f = 0; f < areas.size(); ++f)
        if (areas[f] > 0) t.areas = std::max(t.areas, std::fabs(areas[f] / measure_face(part, f).size - 1));
    t.volume = std::fabs(mesh.measure() / measure(part).size - 1);
}

StudyAndPart open(const std::string& shapes, const std::string& sizes, const std::filesystem::path& folder,
                  std::string& text) {
    text = "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[part]\n" + shapes +
           "[material.m]\nyoungs_modulus = 1000\npoissons_ratio = 0.3\n[support.s]\non = \"*\"\nhold = \"fixed\"\n"
           "[load.w]\ngravity = [0, 0, -1]\n" +
           sizes;
    text.replace(text.find("poissons_ratio"), 0, "density = 1e-9\n");
    Problems problems("random.toml");
    auto both = open_study(folder / "random.toml", text, problems);
    problems.throw_if_any();
    return both;
}

void one(unsigned seed, bool rules, const std::filesystem::path& folder, std::string& text, Told& t) {
    const RandomSolid solid = random_solid(seed);
    const std::string sizes = random_sizes(solid, seed, rules);
    try {
        auto both = open(solid.shapes, sizes, folder, text);
        if (const unsigned way = seed / solid_kinds % 5; !rules && way >= 3) {
            std::string file = fmt::format("solid-{}.{}", seed, way == 3 ? "step" : "stl");
            if (way == 3) {
                write_step(*both.solid, folder / file, 1e-3);
            } else {
                const auto coarse = sizing_of(*both.solid, both.study.sizes, "").scaled(0.5);
                write_file(folder / file, facets_of(generate_solid(*both.solid, coarse, most_elements, 2)).text);
            }
            both = open(fmt::format("[[part.shape]]\nadd = \"model\"\nunit = \"mm\"\nfile = \"{}\"\n", file), sizes,
                        folder, text);
        }
        const auto sizing = sizing_of(*both.solid, both.study.sizes, both.study.path);
        check_element_limit(*both.solid, sizing.field, most_elements);
        t.end = End::failed;
        const SolidMesh mesh = generate_solid(*both.solid, sizing, most_elements, 2);
        judge(*both.solid, sizing, mesh, t);
        t.end = End::meshed;
    } catch (const InputError& e) {
        t.end = End::refused;
        say(t, e.what());
    } catch (const std::exception& e) {
        t.end = End::failed;
        say(t, e.what());
    }
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 5) {
        fmt::print("dotsift-solid-corpus corpus|rules COUNT FIRST DIRECTORY\n");
        return 2;
    }
    const bool rules = std::string(argv[1]) == "rules";
    const int count = std::atoi(argv[2]), first = std::atoi(argv[3]);
    const std::filesystem::path folder = argv[4];
    std::filesystem::create_directories(folder);
    int meshed = 0, refused = 0, bad = 0, sharp = 0, poor = 0, thin = 0, tangled = 0, off = 0, flat = 0;
    double elements = 0, seconds = 0, fit = 0, shape = 0;
    for (int k = first; k < first + count; ++k) {
        std::array<int, 2> pipe_ends{};
        if (pipe(pipe_ends.data()) != 0) return 4;
        const pid_t child = fork();
        if (child == 0) {
            const rlimit limit{seconds_for_one, seconds_for_one + 5};
            setrlimit(RLIMIT_CPU, &limit);
            const rlimit no_core{0, 0};
            setrlimit(RLIMIT_CORE, &no_core);
            Told t;
            std::string text;
            one(static_cast<unsigned>(k), rules, folder, text, t);
            rusage used{};
            getrusage(RUSAGE_SELF, &used);
            t.seconds = static_cast<double>(used.ru_utime.tv_sec) + 1e-6 * static_cast<double>(used.ru_utime.tv_usec);
            const bool sent = write(pipe_ends[1], &t, sizeof t) == static_cast<ssize_t>(sizeof t);
            _exit(sent ? 0 : 1);
        }
        close(pipe_ends[1]);
        Told t;
        const bool whole = read(pipe_ends[0], &t, sizeof t) == static_cast<ssize_t>(sizeof t);
        close(pipe_ends[0]);
        int status = 0;
        waitpid(child, &status, 0);
        const RandomSolid solid = random_solid(static_cast<unsigned>(k));
        const std::string text = solid.shapes + random_sizes(solid, static_cast<unsigned>(k), rules);
        std::string faults;
        const auto fault = [&](bool is, int& counter, const std::string& words) {
            if (!is) return;
            ++counter;
            faults += (faults.empty() ? "" : "; ") + words;
        };
        if (!whole) {
            fault(true, bad, WIFSIGNALED(status) ? fmt::format("ended by signal {}", WTERMSIG(status)) : "ended");
        } else if (t.end == End::refused) {
            ++refused;
            fmt::print("{:5} {:15} refused: {}\n", k, solid.kind, std::string(t.words).substr(0, 150));
        } else if (t.end == End::failed) {
            fault(true, bad, "FAILED: " + std::string(t.words));
        } else {
            ++meshed;
            elements += t.elements;
            fit += t.fit;
            shape += t.shape;
            fault(!(t.jacobian > 0), bad, "INVERTED");
            fault(t.sharpest < t.allowed, sharp, fmt::format("angle {:.1f}, allowed {:.1f}", t.sharpest, t.allowed));
            fault(t.shape < 0.82, poor, fmt::format("mean shape {:.3f}", t.shape));
            fault(t.fit < 0.9, thin, fmt::format("{:.0f} % of edges fit", 100 * t.fit));
            fault(t.jacobian < 0.2, tangled, fmt::format("Jacobian {:.2f}", t.jacobian));
            fault(t.volume > 5e-3 || t.areas > 2e-2, off,
                  fmt::format("volume off {:.1e}, areas {:.1e}", t.volume, t.areas));
            fault(t.sharper > 0, flat, fmt::format("{} surface triangles below 25, {:.0f}", t.sharper, t.surface));
        }
        seconds += t.seconds;
        if (!faults.empty()) {
            fmt::print("{:5} {:15} {:6.0f} elements {:5.1f} s: {}\n", k, solid.kind, t.elements, t.seconds, faults);
            write_file(folder / fmt::format("{}.toml", k),
                       "format = 1\nunits = { length = \"mm\", force = \"N\" }\n[part]\n" + text);
        }
        std::fflush(stdout);
    }
    fmt::print("{} solids: {} meshed with {:.0f} elements, {} refused, {} FAILED; {:.0f} s of processor time\n", count,
               meshed, elements, refused, bad, seconds);
    fmt::print(
        "mean shape {:.3f}, {:.1f} % of edges fit; below limits: angles {}, mean shape {}, edges {}, Jacobian {}, "
        "volume or area {}, surface angles {}\n",
        shape / meshed, 100 * fit / meshed, sharp, poor, thin, tangled, off, flat);
    return bad > 0;
}
