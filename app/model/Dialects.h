// The window's model: how the job's programs are spelled, and a dialect of the user's own that is being changed.
#pragma once
#include "model/ModelPart.h"
#include "post/Post.h"

namespace gyre {

class Dialects : public ModelPart {
    Q_OBJECT
public:
    explicit Dialects(AppModel& model);

    struct Known {
        QString word, name; ///< as the job names it; for people
    };
    /// The kinds that are built in, then files beside the job, of the shop, and of the user's own.
    [[nodiscard]] std::vector<Known> known() const;
    [[nodiscard]] QString word() const; ///< the job's; tip control when it names none
    void choose(const QString& word);
    [[nodiscard]] Result<DialectChoice> choice() const;
    /// Of the file that is chosen; null where the chosen dialect is built in or cannot be read.
    [[nodiscard]] const Spelling* spelling() const { return m_spelling ? &*m_spelling : nullptr; }

    [[nodiscard]] QString fileName() const { return m_file; } ///< of the chosen dialect; empty for those that are built in

    [[nodiscard]] bool isOpen() const { return m_open && m_spelling; }
    /// Shows the chosen dialect to be changed; of one that is built in or shipped a copy of the user's own is made first.
    void open(bool on);
    /// Changes the dialect and its file; what cannot be read back is refused and told.
    bool change(const std::function<void(Spelling&)>& edit);
    [[nodiscard]] bool canTakeBack() const { return !m_before.empty(); }
    void takeBack();

signals:
    void changed(); ///< another dialect, other words of it, opened or closed

private:
    [[nodiscard]] QString fileOf(const QString& word) const; ///< empty for those that are built in
    [[nodiscard]] bool isOwn(const QString& file) const;
    bool makeOwn();
    bool store(const Spelling& spelling);
    void look();
    std::optional<Spelling> m_spelling;
    QString m_word, m_file;
    std::string m_text; ///< of the file, as it was read or written here
    std::vector<Spelling> m_before;
    bool m_open = false;
};

} // namespace gyre
