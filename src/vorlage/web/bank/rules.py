"""Who may do what with questions."""

import rules

from vorlage.web.people.permissions import same_department, writes

rules.add_perm("bank.view_question", same_department)
rules.add_perm("bank.view_picture", same_department)
rules.add_perm("bank.add_question", writes)
rules.add_perm("bank.change_question", same_department & writes)
