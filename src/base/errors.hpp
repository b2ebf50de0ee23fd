#pragma once
// The errors that leave the core. Each carries the place where it happened and what to do about it,
// and belongs to one exit status of the program.

#include <optional>
#include <stdexcept>
#include <string>

#include "base/vec.hpp"

namespace dotsift {

/// Exit statuses of the program; scripts rely on these numbers.
enum class ExitStatus : int {
    done = 0,
    target_missed = 1,
    bad_input = 2,
    computation_failed = 3,
    file_trouble = 4,
    interrupted = 130
};

/// A place in the plane or in space.
class Position {
  public:
    Position(const Vec2& p) : at_{{p[0], p[1], 0}} {}     // NOLINT(google-explicit-constructor): is one
    Position(const Vec3& p) : at_(p), in_space_(true) {}  // NOLINT(google-explicit-constructor)
    [[nodiscard]] bool in_space() const { return in_space_; }
    [[nodiscard]] Vec2 plane() const { return {{at_[0], at_[1]}}; }
    double operator[](std::size_t axis) const { return at_[axis]; }

  private:
    Vec3 at_;
    bool in_space_ = false;
};

/// Where something went wrong; whatever is unknown stays empty.
struct Place {
    std::string file;
    int line = 0, column = 0;          ///< 1-based; 0: unknown
    std::string boundary;              ///< name of a boundary, support or load
    std::optional<Position> position;  ///< in the study's length unit
    std::string level;                 ///< "series, level k"
};

class Error : public std::runtime_error {
  public:
    Error(ExitStatus status, const std::string& what, Place place = {}, std::string remedy = {})
        : std::runtime_error(what), status_(status), place_(std::move(place)), remedy_(std::move(remedy)) {}
    [[nodiscard]] ExitStatus status() const { return status_; }
    [[nodiscard]] const Place& place() const { return place_; }
    [[nodiscard]] const std::string& remedy() const { return remedy_; }
    /// Tells in which level it happened; the type stays, which callers choose by.
    void in_level(const std::string& level) { place_.level = level; }

  private:
    ExitStatus status_;
    Place place_;
    std::string remedy_;
};

/// The study file or the command line is wrong.
class InputError : public Error {
  public:
    explicit InputError(const std::string& what, Place place = {}, std::string remedy = {})
        : Error(ExitStatus::bad_input, what, std::move(place), std::move(remedy)) {}
};

/// No valid mesh could be made.
class MeshError : public Error {
  public:
    explicit MeshError(const std::string& what, Place place = {}, std::string remedy = {})
        : Error(ExitStatus::computation_failed, what, std::move(place), std::move(remedy)) {}
};

/// The equations could not be set up or solved.
class SolveError : public Error {
  public:
    explicit SolveError(const std::string& what, Place place = {}, std::string remedy = {})
        : Error(ExitStatus::computation_failed, what, std::move(place), std::move(remedy)) {}
};

/// A file could not be read or written.
class FileError : public Error {
  public:
    explicit FileError(const std::string& what, Place place = {}, std::string remedy = {})
        : Error(ExitStatus::file_trouble, what, std::move(place), std::move(remedy)) {}
};

}  // namespace dotsift
