"""Who may do what with tests."""

import rules

from vorlage.web.people.permissions import same_department, writes

rules.add_perm("plans.view_test", same_department)
rules.add_perm("plans.add_test", writes)
rules.add_perm("plans.change_test", same_department & writes)
